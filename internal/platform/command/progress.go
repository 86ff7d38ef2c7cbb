package command

import (
	"context"
	"sync"

	"lanternrow/internal/people"
)

// Progress is how far a command is that is under way, in pieces of its own: rows, orders,
// shipments. Of a command that says nothing of itself, both are nought.
type Progress struct {
	Done  int `json:"done"`
	Total int `json:"total"`
}

// board holds the progress of the commands under way at this server. It is for the eye
// alone: nothing is decided by it, and it ends with the command.
type board struct {
	mu sync.Mutex
	by map[asking]Progress
}

// asking tells commands apart.
type asking struct {
	person int32
	key    string
}

func (b *board) put(at asking, p Progress) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.by == nil {
		b.by = map[asking]Progress{}
	}
	b.by[at] = p
}

func (b *board) take(at asking) {
	b.mu.Lock()
	defer b.mu.Unlock()
	delete(b.by, at)
}

// Progress is how far the command is that the person who acts has sent with a key.
func (r *Runner) Progress(ctx context.Context, key string) (Progress, error) {
	person, err := people.Acting(ctx)
	if err != nil {
		return Progress{}, err
	}
	r.board.mu.Lock()
	defer r.board.mu.Unlock()
	return r.board.by[asking{person.ID, key}], nil
}

// Each does a step with each of many and gathers what comes of them, and shows how far it
// is. The first error ends it.
func Each[T, O any](tx *Tx, all []T, step func(T) (O, error)) ([]O, error) {
	out := make([]O, 0, len(all))
	for i, x := range all {
		o, err := step(x)
		if err != nil {
			return nil, err
		}
		out = append(out, o)
		if tx.Key != "" {
			tx.runner.board.put(asking{tx.Person.ID, tx.Key}, Progress{i + 1, len(all)})
		}
	}
	return out, nil
}
