package main

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// TestACommandAtTheConsoleMeansTheHouseInService: what a file of settings names is what is verified and added to, the demo is
// not let in there, and with settings that are none nothing is done but what is about no house.
func TestACommandAtTheConsoleMeansTheHouseInService(t *testing.T) {
	h := world.New(t)
	file := filepath.Join(t.TempDir(), "lanternrow.env")
	settings := "DATABASE_URL=" + h.URL + "\n"
	env := []string{"LANTERNROW_SETTINGS=" + file, "LANTERNROW_RUN=", "DATABASE_URL=", "LANTERNROW_SERVE_URL="}
	for _, c := range []struct {
		settings string
		args     []string
		says     string
		done     bool
	}{
		{settings, []string{"verify"}, "The ledger is whole", true},
		{settings, []string{"user", "add", "dora", "--name", "Dora Finch", "--site", "T"}, "Dora Finch signs on as dora", true},
		{settings, []string{"demo"}, "the demo is not for a house in service", false},
		{settings + "LANTERNROW_IDEL=3h\n", []string{"verify"}, "there is no setting LANTERNROW_IDEL", false},
		{settings + "LANTERNROW_IDEL=3h\n", []string{"openapi"}, `"openapi"`, true},
	} {
		if err := os.WriteFile(file, []byte(c.settings), 0o600); err != nil {
			t.Fatal(err)
		}
		out, err := as(t, env, "a long enough secret 1", c.args...)
		if (err == nil) != c.done || !strings.Contains(out, c.says) {
			t.Errorf("%v: %v: %.300s", c.args, err, out)
		}
	}
	var added bool
	if err := h.Owner.QueryRow(`SELECT EXISTS (SELECT FROM people WHERE login = 'dora')`).Scan(&added); err != nil || !added {
		t.Errorf("dora works elsewhere: %v", err)
	}
}
