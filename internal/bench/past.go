package bench

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/recall"
	"lanternrow/internal/station/stock"
	"lanternrow/internal/value"

	"github.com/jmoiron/sqlx"
)

// instants is at how many instants of a long history the past is read, and again how often each read is made.
const instants, again = 9, 5

// past measures reads of instants gone by against the same read of now, and what became of a lot, on a long history.
func past(ctx context.Context, db *sqlx.DB, moves int) ([]Figure, error) {
	var span struct{ First, Last time.Time }
	if err := db.GetContext(ctx, &span, `SELECT min(entered_at) AS first, max(entered_at) AS last FROM postings`); err != nil {
		return nil, err
	}
	at := func(i int) time.Time {
		return span.First.Add(span.Last.Sub(span.First) * time.Duration(i+1) / (instants + 1))
	}
	reads := []struct {
		name string
		now  func() error
		then func(time.Time) error
	}{
		{"the floor", func() error { _, err := stock.ReadFloor(ctx, db, 1); return err },
			func(at time.Time) error { _, err := stock.ReadPastFloor(ctx, db, 1, at); return err }},
		{"value by bin", func() error {
			_, err := value.Read(ctx, db, value.Asked{Method: value.Average, By: "bin"})
			return err
		},
			func(at time.Time) error {
				_, err := value.Read(ctx, db, value.Asked{At: at, Method: value.Average, By: "bin"})
				return err
			}},
	}
	var out []Figure
	for _, r := range reads {
		present, err := often(func(int) error { return r.now() })
		if err != nil {
			return nil, fmt.Errorf("%s: %w", r.name, err)
		}
		gone, err := often(func(i int) error { return r.then(at(i % instants)) })
		if err != nil {
			return nil, fmt.Errorf("%s at an instant: %w", r.name, err)
		}
		out = append(out, Figure{Name: fmt.Sprintf("%s now, %d moves", r.name, moves), Value: present, Unit: "ms"},
			Figure{Name: r.name + " at an instant gone by", Value: gone, Unit: "ms"},
			Figure{Name: r.name + ", then against now", Value: gone / present, Unit: "ratio", Limit: 2, Below: true})
	}
	traced, err := often(func(i int) error {
		_, err := recall.Follow(ctx, db, recall.OfLot, int64(1+i%lots))
		return err
	})
	return append(out, Figure{Name: fmt.Sprintf("recall of a lot, %d moves", moves), Value: traced, Unit: "ms", Limit: 1000, Below: true}), err
}

// often is the median time of a read, in milliseconds; it is told how often it was made before.
func often(read func(i int) error) (float64, error) {
	var times []float64
	for i := range instants * again {
		start := time.Now()
		if err := read(i); err != nil {
			return 0, err
		}
		times = append(times, float64(time.Since(start).Microseconds())/1000)
	}
	return median(times), nil
}
