package main

import (
	"encoding/json"
	"os"
	"reflect"
	"regexp"
	"testing"

	"lanternrow/internal/core/refusal"
)

var example = regexp.MustCompile("(?s)```json (\\w+) in\n(.*?)```\n```json \\w+ out\n(.*?)```")

// TestTheExamplesOfTheCalcPage runs every worked example of docs/calc.md.
func TestTheExamplesOfTheCalcPage(t *testing.T) {
	page, err := os.ReadFile("../../docs/calc.md")
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]bool{}
	for _, m := range example.FindAllSubmatch(page, -1) {
		name := string(m[1])
		seen[name] = true
		out, err := calculations[name](m[2])
		if r := refusal.From(err); r != nil {
			out = map[string]any{"refused": r.Code, "field": r.Field, "sentence": r.Sentence}
		} else if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		text, err := json.Marshal(out)
		if err != nil {
			t.Fatal(err)
		}
		var got, want any
		if json.Unmarshal(text, &got) != nil || json.Unmarshal(m[3], &want) != nil {
			t.Fatalf("%s: the example is not JSON", name)
		}
		if !reflect.DeepEqual(got, want) {
			t.Errorf("%s answers\n%s\nand the page says\n%s", name, text, m[3])
		}
	}
	for name := range calculations {
		if !seen[name] {
			t.Errorf("%s has no example on the page", name)
		}
		if _, err := calculations[name]([]byte(`{"unheard_of": 1}`)); err == nil {
			t.Errorf("%s takes an unknown field in silence", name)
		}
	}
}
