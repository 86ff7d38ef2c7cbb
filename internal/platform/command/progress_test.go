package command_test

import (
	"context"
	"errors"
	"slices"
	"testing"

	"lanternrow/internal/platform/command"
	"lanternrow/internal/test/world"
)

// How far a command is can be asked while it runs, by whoever sent it, and ends with it.
func TestHowFarACommandIsIsToldWhileItRuns(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	progress := func(login string) command.Progress {
		p, err := h.Runner.Progress(world.As(login), "many")
		if err != nil {
			t.Error(err)
		}
		return p
	}
	var seen []int
	run := func(stop int) ([]int, error) {
		return command.Do(world.As("lead"), h.Runner, "many", "count", nil,
			func(_ context.Context, tx *command.Tx) ([]int, error) {
				tx.Nowhere()
				return command.Each(tx, []int{1, 2, 3}, func(n int) (int, error) {
					seen = append(seen, progress("lead").Done)
					if other := progress("office"); other != (command.Progress{}) {
						t.Errorf("somebody else's command is told as %v", other)
					}
					if n == stop {
						return 0, errors.New("broken off")
					}
					return n * n, nil
				})
			})
	}
	if _, err := run(2); err == nil || progress("lead") != (command.Progress{}) {
		t.Fatalf("broken off with %v, and told as %v", err, progress("lead"))
	}
	squares, err := run(0)
	if err != nil || !slices.Equal(squares, []int{1, 4, 9}) || progress("lead") != (command.Progress{}) {
		t.Fatalf("%v, %v, told as %v when done", squares, err, progress("lead"))
	}
	if !slices.Equal(seen, []int{0, 1, 0, 1, 2}) {
		t.Fatalf("told as %v", seen)
	}
}
