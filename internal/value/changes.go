package value

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Between is which change is asked for.
type Between struct {
	From time.Time `query:"from" doc:"The instant that it begins with"`
	To   time.Time `query:"to" doc:"The instant that it ends with; now without"`
	// Method is how goods are valued.
	Method Method `query:"method" enum:"average,fifo" default:"average"`
	Site   int32  `query:"site" doc:"Only this site; all of them, and what is in transit, without"`
}

// Changes are what changed between two instants.
type Changes struct {
	From   time.Time       `json:"from"`
	To     time.Time       `json:"to"`
	Before decimal.Decimal `json:"before"`
	After  decimal.Decimal `json:"after"`
	Rows   []Change        `json:"rows" nullable:"false"`
	Days   []Day           `json:"days" nullable:"false"`
}

// A Change is what one kind of move did to stock and to what it is worth.
type Change struct {
	Kind     posting.Kind    `db:"kind" json:"kind"`
	Moves    int             `db:"moves" json:"moves"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
	Value    decimal.Decimal `db:"value" json:"value"`
}

// A Day is what stock was worth at the end of a day.
type Day struct {
	Day   string          `db:"day" json:"day"`
	Value decimal.Decimal `db:"value" json:"value"`
}

// What changes what stock is worth beside the kinds of moves: entries that re-cost goods, and what whole cents make of it.
const (
	Recosted posting.Kind = "recosted"
	Rounding posting.Kind = "rounding"
)

// mostDays is over how many days a course goes.
const mostDays = 800

// readChanges sums up what changed, by kind of move and day by day.
func readChanges(ctx context.Context, q sqlx.QueryerContext, in Between) (out Changes, err error) {
	if in.To, err = ledger.OrNow(ctx, q, in.To); err != nil {
		return out, err
	}
	out = Changes{From: in.From, To: in.To, Rows: []Change{}, Days: []Day{}}
	if err := in.check(ctx, q); err != nil {
		return out, err
	}
	args, source, worth := []any{in.Site, in.From, in.To}, crossed, func(at time.Time) (map[key]decimal.Decimal, error) {
		return averaged(ctx, q, at)
	}
	if in.Method == FIFO {
		all, err := readHistories(ctx, q, in.To)
		if err != nil {
			return out, err
		}
		moves, values, err := carried(all)
		if err != nil {
			return out, err
		}
		args, source = append(args, moves, values), crossedByLayers
		worth = func(at time.Time) (map[key]decimal.Decimal, error) { return worthAt(all, at) }
	}
	for at, to := range map[time.Time]*decimal.Decimal{in.From: &out.Before, in.To: &out.After} {
		all, err := worth(at)
		if err != nil {
			return out, err
		}
		*to = sumAt(all, in.Site)
	}
	of := `FROM (` + source + `) AS t WHERE ($1 = 0 OR place = $1) AND entered_at `
	if err := sqlx.SelectContext(ctx, q, &out.Rows, `
		SELECT kind, count(DISTINCT id) AS moves, sum(quantity) AS quantity, round(sum(value), 2) AS value `+of+`> $2 AND entered_at <= $3
		 GROUP BY 1 HAVING sum(quantity) <> 0 OR round(sum(value), 2) <> 0 ORDER BY abs(sum(value)) DESC, 1`, args...); err != nil {
		return out, fmt.Errorf("reading what changed: %w", err)
	}
	out.settle()
	if err := sqlx.SelectContext(ctx, q, &out.Days, `
		WITH changed AS (SELECT entered_at::date AS day, sum(value) AS value `+of+`<= $3 GROUP BY 1)
		SELECT to_char(d, 'YYYY-MM-DD') AS day, coalesce((SELECT round(sum(value), 2) FROM changed WHERE changed.day <= d), 0) AS value
		  FROM generate_series($2::timestamptz::date, $3::timestamptz::date, interval '1 day') AS d ORDER BY d`, args...); err != nil {
		return out, fmt.Errorf("reading what stock was worth day by day: %w", err)
	}
	return out, nil
}

// sumAt adds up what is worth so much, of all places or of one.
func sumAt(worth map[key]decimal.Decimal, site int32) (sum decimal.Decimal) {
	for k, v := range worth {
		if site == 0 || k.place == site {
			sum = sum.Add(v)
		}
	}
	return sum
}

// settle adds what whole cents make of the change, so that it adds up.
func (c *Changes) settle() {
	left := c.After.Sub(c.Before)
	for _, r := range c.Rows {
		left = left.Sub(r.Value)
	}
	if !left.IsZero() {
		c.Rows = append(c.Rows, Change{Kind: Rounding, Value: left})
	}
}

// check refuses a time that is none, or too long.
func (in Between) check(ctx context.Context, q sqlx.QueryerContext) error {
	for field, at := range map[string]time.Time{"from": in.From, "to": in.To} {
		if err := ledger.MayLookAt(ctx, q, field, at); err != nil {
			return err
		}
	}
	switch days := in.To.Sub(in.From).Hours() / 24; {
	case days < 0:
		return refusal.New(refusal.BadRange, "to", "It ends before it begins. Turn the two around.")
	case days > mostDays:
		return refusal.New(refusal.RangeLong, "from", "%d days are too many at once. Ask for at most %d.", int(days), mostDays)
	}
	return nil
}
