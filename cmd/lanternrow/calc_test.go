package main

import (
	"encoding/json"
	"maps"
	"math/rand/v2"
	"os"
	"reflect"
	"regexp"
	"slices"
	"testing"
	"time"

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

// TestNoInputBreaksACalculation spoils the worked examples at random: each calculation
// answers with JSON or says what is wrong, and soon.
func TestNoInputBreaksACalculation(t *testing.T) {
	page, err := os.ReadFile("../../docs/calc.md")
	if err != nil {
		t.Fatal(err)
	}
	r := rand.New(rand.NewPCG(11, 13))
	for _, m := range example.FindAllSubmatch(page, -1) {
		name := string(m[1])
		answered, refused := 0, 0
		for range 400 {
			var in any
			if err := json.Unmarshal(m[2], &in); err != nil {
				t.Fatal(err)
			}
			for range 1 + r.IntN(3) {
				in = spoiled(r, in)
			}
			text, err := json.Marshal(in)
			if err != nil {
				t.Fatal(err)
			}
			answer := make(chan bool, 1)
			go func() {
				defer func() {
					if p := recover(); p != nil {
						t.Errorf("%s breaks on %s: %v", name, text, p)
						answer <- false
					}
				}()
				out, err := calculations[name](text)
				if err == nil {
					_, err = json.Marshal(out)
					if err != nil {
						t.Errorf("%s answers %s with what is no JSON: %v", name, text, err)
					}
				} else if err.Error() == "" {
					t.Errorf("%s refuses %s without a word", name, text)
				}
				answer <- err == nil
			}()
			select {
			case ok := <-answer:
				if ok {
					answered++
				} else {
					refused++
				}
			case <-time.After(20 * time.Second):
				t.Fatalf("%s does not answer to %s", name, text)
			}
		}
		// A GS1 text has nothing that may be otherwise.
		if answered < 20 && name != "gs1" || refused < 20 {
			t.Errorf("%s answered %d and refused %d: they were spoiled too little or too much", name, answered, refused)
		}
	}
}

// odd are values that nobody means.
var odd = []any{nil, "", "-1", "0", "1e9", "0.0005", "NaN", "2027-02-30", -3, 0, 1e15, 0.5, true, []any{},
	map[string]any{}, "\u0000", "(01)"}

// spoiled changes one value of a JSON text, leaves one out, or doubles one.
func spoiled(r *rand.Rand, v any) any {
	switch v := v.(type) {
	case map[string]any:
		for _, key := range slices.Sorted(maps.Keys(v)) {
			if r.IntN(len(v)) > 0 {
				continue
			}
			switch r.IntN(5) {
			case 0:
				delete(v, key)
			case 1:
				v[key] = odd[r.IntN(len(odd))]
			default:
				v[key] = spoiled(r, v[key])
			}
		}
		return v
	case []any:
		if len(v) == 0 {
			return v
		}
		i := r.IntN(len(v))
		switch r.IntN(5) {
		case 0:
			return append(v[:i], v[i+1:]...)
		case 1:
			return append(v, v[i])
		default:
			v[i] = spoiled(r, v[i])
		}
		return v
	}
	if r.IntN(3) == 0 {
		return odd[r.IntN(len(odd))]
	}
	if n, is := v.(float64); is {
		return n * float64(r.IntN(5)-2)
	}
	return v
}
