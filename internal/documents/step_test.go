package documents_test

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/test/world"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

// TestADocumentStepsOnAllowedStepsAlone moves cartons: all of them, or none where one is in
// no state for it.
func TestADocumentStepsOnAllowedStepsAlone(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	for n, state := range []states.Carton{states.CartonPacked, states.CartonPacked, states.CartonOpen} {
		h.Owner.MustExec(`
			WITH c AS (INSERT INTO cartons (sscc) VALUES ($1) RETURNING id)
			INSERT INTO carton_work (carton_id, site_id, state, printed_at, changed_at) SELECT id, 1, $2, now(), now()
			  FROM c`,
			fmt.Sprintf("%018d", n), state)
	}
	step := func(to states.Carton, ids ...int64) error {
		_, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (bool, error) {
			return true, documents.Step(ctx, tx, states.Cartons, ids, to, "weight_kg = $4", "2.5")
		})
		return err
	}
	var refused *states.StepError
	if err := step(states.CartonLoaded, 1, 2, 3); !errors.As(err, &refused) || refused.From != "open" {
		t.Errorf("an open carton was loaded: %v", err)
	}
	if err := step(states.CartonLoaded, 1, 2); err != nil {
		t.Fatal(err)
	}
	if err := step(states.CartonLoaded, 1); !errors.As(err, &refused) || refused.From != "loaded" {
		t.Errorf("a carton was loaded twice: %v", err)
	}
	var loaded int
	if err := h.App.Get(&loaded, `
		SELECT count(*) FROM carton_work WHERE state = 'loaded' AND weight_kg = 2.5`); err != nil || loaded != 2 {
		t.Errorf("%d cartons are loaded, not 2 (%v)", loaded, err)
	}
}

// TestStatesHaveOneWriter reads the program: nothing but Step writes the state of what has
// states, once it was made.
func TestStatesHaveOneWriter(t *testing.T) {
	t.Parallel()
	var tables []string
	for d := range states.Steps {
		tables = append(tables, string(d))
	}
	update := regexp.MustCompile(`(?s)UPDATE\s+(` + strings.Join(tables,
		"|") + `)\b(.*?)(\bWHERE\b|\bRETURNING\b|` + "`)")
	writes := regexp.MustCompile(`\bstate\s*=`)
	read := 0
	err := filepath.WalkDir(filepath.Join("..", ".."), func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() && d.Name() == "node_modules" {
			return filepath.SkipDir
		}
		if d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		source, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		for _, m := range update.FindAllStringSubmatch(string(source), -1) {
			read++
			if writes.MatchString(m[2]) {
				t.Errorf("%s writes the state of %s", path, m[1])
			}
		}
		return nil
	})
	if err != nil || read < 20 {
		t.Errorf("%d updates were read (%v)", read, err)
	}
}
