// Package availability reads what comes in and goes out of an item at a site, by day, and
// calculates from it what will be free, and when.
package availability

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/projection"
	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Course is what will be free of an item at a site, with what it is made of.
type Course struct {
	ledger.Figures
	// Good is what lies there fit to go, in no carton; the course starts from it less
	// what is reserved.
	Good decimal.Decimal `json:"good"`
	projection.Course
	// Promise is the first day on which Wanted more can go; empty when none is known.
	Wanted  decimal.Decimal `json:"wanted"`
	Promise string          `json:"promise"`

	flows []projection.Flow
}

// With is the course with an outflow that is not known yet, or that stands in place of the one
// of the same document, from which it has what is reserved. It comes behind all others of its day.
func (c Course) With(out projection.Flow) projection.Course {
	flows := make([]projection.Flow, 0, len(c.flows)+1)
	for _, f := range c.flows {
		if f.Out && f.Document == out.Document {
			out.Reserved = f.Reserved
			continue
		}
		flows = append(flows, f)
	}
	if out.Quantity.IsPositive() {
		flows = append(flows, out)
	}
	return projection.Follow(c.Good, c.Reserved, flows)
}

type flow struct {
	On       string          `db:"on"`
	Quantity decimal.Decimal `db:"quantity"`
	Out      bool            `db:"out"`
	Reserved decimal.Decimal `db:"reserved"`
	Document string          `db:"document"`
	Party    string          `db:"party"`
}

// flows are open inbound lines, what is to be shipped here from other sites, goods that wait on
// the dock for the rest of their order, and open outbound lines. What should have come before
// counts as of today.
const flows = `
	SELECT to_char(greatest(o.expected_on, $3::date), 'YYYY-MM-DD') AS "on", sum(l.quantity - l.received) AS quantity,
	       false AS out, 0 AS reserved, o.number AS document, o.source AS party
	  FROM inbound_lines l JOIN inbound o ON o.id = l.order_id
	 WHERE l.item_id = $1 AND o.site_id = $2 AND o.state IN ('placed', 'partly_received') AND NOT l.closed
	   AND l.quantity > l.received GROUP BY o.id, o.number, o.expected_on, o.source
	UNION ALL
	SELECT to_char(greatest(coalesce(o.due_on, o.wanted_on), $3::date), 'YYYY-MM-DD'),
	       sum(l.quantity - l.cancelled - l.shipped), false, 0, o.number, s.name
	  FROM outbound_lines l JOIN outbound_orders o ON o.id = l.order_id JOIN sites s ON s.id = o.site_id
	 WHERE l.item_id = $1 AND o.to_site_id = $2 AND o.state = 'released' AND l.quantity - l.cancelled > l.shipped
	 GROUP BY o.id, s.name
	UNION ALL
	SELECT to_char(greatest(o.expected_on, $3::date), 'YYYY-MM-DD'), sum(m.quantity), false, 0,
	       o.number || ', on the dock', o.source
	  FROM receipts b JOIN moves m ON m.id = b.move_id JOIN inbound_lines l ON l.id = b.line_id
	  JOIN inbound o ON o.id = l.order_id
	 WHERE m.item_id = $1 AND o.site_id = $2 AND m.to_condition = 'waiting' AND b.undone_at IS NULL
	   AND b.released_at IS NULL GROUP BY o.id, o.number, o.expected_on, o.source
	UNION ALL
	SELECT to_char(greatest(o.wanted_on, $3::date), 'YYYY-MM-DD'), sum(l.due), true,
	       coalesce(sum((SELECT sum(quantity) FROM reservations WHERE line_id = l.id)), 0), o.number, o.recipient
	  FROM outbound_lines l JOIN outbound o ON o.id = l.order_id
	 WHERE l.item_id = $1 AND o.site_id = $2 AND o.state IN ('on_hold', 'released')
	   AND l.quantity - l.cancelled - l.picked - l.shipped > 0 GROUP BY o.id, o.number, o.wanted_on, o.recipient
	 ORDER BY 1, 3, 5`

// CourseOf calculates the course of an item, and when so much more of it can go.
func CourseOf(
	ctx context.Context, q sqlx.QueryerContext, item, site int32, wanted decimal.Decimal, now time.Time,
) (Course, error) {
	c := Course{Wanted: wanted}
	var err error
	if c.Figures, err = ledger.FiguresOf(ctx, q, item, site); err != nil {
		return c, err
	}
	c.Good = c.Free.Add(c.Promised).Add(c.Reserved)
	today := now.UTC().Format(time.DateOnly)
	var rows []flow
	if err := sqlx.SelectContext(ctx, q, &rows, flows, item, site, today); err != nil {
		return c, fmt.Errorf("reading what comes and goes: %w", err)
	}
	c.flows = make([]projection.Flow, len(rows))
	for i, r := range rows {
		c.flows[i] = projection.Flow(r)
	}
	c.Course = projection.Follow(c.Good, c.Reserved, c.flows)
	c.Promise = c.Course.Promise(wanted, today)
	return c, nil
}
