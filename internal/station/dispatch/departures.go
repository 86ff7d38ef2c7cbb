package dispatch

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"lanternrow/internal/carriers"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Departure is the next collection of a carrier, with how far what it is to take is.
type Departure struct {
	Carrier string `json:"carrier"`
	// At is nil for a carrier that has no times: its orders of today are shown.
	At     *time.Time `json:"at"`
	Orders int        `json:"orders" doc:"Orders that are wanted by the day of the collection"`
	Late   int        `json:"late" doc:"Those of them that are late already"`
	// The units of these orders, each counted once.
	Shipped  decimal.Decimal `json:"shipped"`
	Packed   decimal.Decimal `json:"packed"`
	Picked   decimal.Decimal `json:"picked" doc:"Picked, and not packed yet"`
	OnRound  decimal.Decimal `json:"on_round"`
	NotBegun decimal.Decimal `json:"not_begun"`
	// orders are those it is to take, unless they are shipped.
	orders []Order
}

// stage is how far an order is, in units.
type stage struct {
	Order
	Carrier  string          `db:"carrier"`
	WantedOn string          `db:"wanted_on"`
	Late     bool            `db:"late"`
	Running  bool            `db:"running"`
	Shipped  decimal.Decimal `db:"shipped"`
	Packed   decimal.Decimal `db:"packed"`
	Picked   decimal.Decimal `db:"picked"`
	OnRound  decimal.Decimal `db:"on_round"`
	NotBegun decimal.Decimal `db:"not_begun"`
}

// readDepartures reads the next collection of each carrier that has anything to take, the
// first first.
func readDepartures(ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time) ([]Departure, error) {
	stages, err := readStages(ctx, q, site)
	if err != nil {
		return nil, err
	}
	all, err := carriers.List(ctx, q, site, now)
	if err != nil {
		return nil, err
	}
	next := map[string]*time.Time{}
	for _, c := range all {
		next[c.Name] = c.Next
	}
	return gather(stages, next, now), nil
}

// readStages reads how far the orders are that are released, or went today.
func readStages(ctx context.Context, q sqlx.QueryerContext, site int32) ([]stage, error) {
	var out []stage
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT o.id, o.number, o.carrier, to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on,
		       o.wanted_on < current_date AND o.state = 'released' AS late, o.state = 'released' AS running, l.shipped, k.packed,
		       greatest(l.picked - k.packed, 0) AS picked, l.on_round, l.not_begun
		  FROM outbound_orders o JOIN sites s ON s.id = o.site_id,
		       LATERAL (SELECT coalesce(sum(shipped), 0) AS shipped, coalesce(sum(picked), 0) AS picked,
		                       coalesce(sum(planned), 0) AS on_round, coalesce(sum(due - planned), 0) AS not_begun
		                  FROM outbound_lines WHERE order_id = o.id AND item_id IS NOT NULL) AS l,
		       LATERAL (SELECT coalesce(sum(b.quantity), 0) AS packed FROM carton_work w
		                  JOIN balances b ON b.carton_id = w.carton_id AND b.quantity > 0
		                 WHERE w.order_id = o.id AND w.state IN ('packed', 'loaded')) AS k
		 WHERE o.site_id = $1 AND (o.state = 'released' OR o.state = 'shipped' AND EXISTS (
			SELECT FROM shipments h WHERE h.order_id = o.id
			   AND (h.shipped_at AT TIME ZONE s.timezone)::date = (now() AT TIME ZONE s.timezone)::date))
		 ORDER BY o.id`, site)
	if err != nil {
		return nil, fmt.Errorf("reading how far orders are: %w", err)
	}
	return out, nil
}

// gather puts each order to the next collection of its carrier, if it is wanted by then.
func gather(stages []stage, next map[string]*time.Time, now time.Time) []Departure {
	by := map[string]*Departure{}
	for _, s := range stages {
		day := now
		if at := next[s.Carrier]; at != nil {
			day = *at
		}
		if s.WantedOn > day.Format(time.DateOnly) {
			continue
		}
		d := by[s.Carrier]
		if d == nil {
			d = &Departure{Carrier: s.Carrier, At: next[s.Carrier]}
			by[s.Carrier] = d
		}
		d.add(s)
	}
	out := []Departure{}
	for _, d := range by {
		out = append(out, *d)
	}
	slices.SortFunc(out, func(a, b Departure) int {
		return cmp.Or(a.leaves().Compare(b.leaves()), cmp.Compare(a.Carrier, b.Carrier))
	})
	return out
}

// leaves is when it is collected; what has no time comes last.
func (d Departure) leaves() time.Time {
	if d.At == nil {
		return time.Date(9999, 1, 1, 0, 0, 0, 0, time.UTC)
	}
	return *d.At
}

func (d *Departure) add(s stage) {
	d.Orders++
	if s.Late {
		d.Late++
	}
	d.Shipped, d.Packed, d.Picked = d.Shipped.Add(s.Shipped), d.Packed.Add(s.Packed), d.Picked.Add(s.Picked)
	d.OnRound, d.NotBegun = d.OnRound.Add(s.OnRound), d.NotBegun.Add(s.NotBegun)
	if s.Running {
		d.orders = append(d.orders, s.Order)
	}
}
