package audit

import (
	"context"
	"fmt"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// bound is goods at a location that a document is in the midst of: it has to be done with them before a count can take
// them away.
type bound struct {
	Condition posting.Condition
	LotID     *int64          `db:"lot_id"`
	CartonID  *int64          `db:"carton_id"`
	Quantity  decimal.Decimal `db:"quantity"`
	// Have is how much of it is there by the books.
	Have     decimal.Decimal
	Carton   string
	Document string
	By       binding
}

// A binding is what a document is in the midst of.
type binding string

const (
	packed    binding = "packed"
	waits     binding = "waits"
	inspected binding = "inspected"
	returned  binding = "returned"
)

// finish says, of each, what it is that binds the goods and what is to be done first.
var finish = map[binding]string{
	packed:    "is packed for %s: unpack it at Pack and have its goods put back",
	waits:     "wait for the rest of %s: let them go at Receive, or close what does not come",
	inspected: "wait to be inspected, as %s has it: decide there what is fine",
	returned:  "came back on %s: decide there what becomes of them",
}

// readBound reads what of an item at a location is bound.
func readBound(ctx context.Context, q sqlx.QueryerContext, location, item int32) (out []bound, err error) {
	if err := sqlx.SelectContext(ctx, q, &out, `
		WITH bound AS (
			SELECT b.condition, b.lot_id, b.carton_id, b.quantity, coalesce(o.number, r.number, '') AS document, 'packed' AS by
			  FROM balances b JOIN carton_work w ON w.carton_id = b.carton_id LEFT JOIN outbound_orders o ON o.id = w.order_id
			  LEFT JOIN rounds r ON r.id = w.round_id
			 WHERE b.location_id = $1 AND b.item_id = $2
			UNION ALL
			SELECT m.to_condition, CASE WHEN i.tracking <> 'lot_out' THEN m.lot_id END, m.to_carton, m.quantity, o.number,
			       CASE WHEN m.to_condition = 'waiting' THEN 'waits' ELSE 'inspected' END
			  FROM receipts b JOIN inbound_lines l ON l.id = b.line_id JOIN inbound_orders o ON o.id = l.order_id
			  JOIN moves m ON m.id = b.move_id JOIN items i ON i.id = m.item_id LEFT JOIN inspections x ON x.id = b.inspection_id
			 WHERE m.to_location = $1 AND m.item_id = $2 AND b.undone_at IS NULL
			   AND (m.to_condition = 'waiting' AND b.released_at IS NULL OR m.to_condition = 'on_hold' AND x.state = 'waiting')
			UNION ALL
			SELECT 'returned', CASE WHEN i.tracking <> 'lot_out' THEN y.lot_id END, NULL, l.received - coalesce((
			           SELECT sum(d.quantity) FROM return_decisions d WHERE d.line_id = l.id), 0), o.number, 'returned'
			  FROM inbound_lines l JOIN return_lines y ON y.line_id = l.id JOIN inbound_orders o ON o.id = l.order_id
			  JOIN items i ON i.id = l.item_id
			 WHERE l.item_id = $2 AND EXISTS (SELECT FROM receipts b JOIN moves m ON m.id = b.move_id
			       WHERE b.line_id = l.id AND b.undone_at IS NULL AND m.to_location = $1 AND m.to_condition = 'returned'))
		SELECT n.condition, n.lot_id, n.carton_id, n.by, string_agg(DISTINCT n.document, ', ') AS document, sum(n.quantity) AS quantity,
		       coalesce(c.sscc, '') AS carton, coalesce((
		           SELECT sum(b.quantity) FROM balances b WHERE b.location_id = $1 AND b.item_id = $2 AND b.condition = n.condition
		              AND b.lot_id IS NOT DISTINCT FROM n.lot_id AND b.carton_id IS NOT DISTINCT FROM n.carton_id), 0) AS have
		  FROM bound n LEFT JOIN cartons c ON c.id = n.carton_id WHERE n.quantity > 0 GROUP BY 1, 2, 3, 4, c.sscc
		 ORDER BY n.by, n.lot_id, n.carton_id`, location, item); err != nil {
		return nil, fmt.Errorf("reading what goods are bound to: %w", err)
	}
	return out, nil
}

// away is how much of these goods moves take from a location.
func (b bound) away(moves []ledger.Move, location int32) (sum decimal.Decimal) {
	for _, m := range moves {
		if m.From == location && m.FromState == b.Condition && ledger.Same(m.Lot, b.LotID) && ledger.Same(m.FromBox, b.CartonID) {
			sum = sum.Add(m.Quantity)
		}
	}
	return sum
}

// checkBound refuses to count away what a document is in the midst of, and to find more of what has come back, or in a
// carton, than its document knows of.
func (c *counted) checkBound(ctx context.Context, q sqlx.QueryerContext, moves []ledger.Move) error {
	all, err := readBound(ctx, q, c.entry.LocationID, c.entry.ItemID)
	if err != nil {
		return err
	}
	for _, b := range all {
		if gone := b.away(moves, c.entry.LocationID); b.Have.Sub(gone).LessThan(b.Quantity) && gone.IsPositive() {
			return b.refusal(c.entry, gone)
		}
	}
	for _, m := range moves {
		if m.To != c.entry.LocationID {
			continue
		}
		for _, b := range all {
			if b.By == packed && ledger.Same(m.ToBox, b.CartonID) {
				return refusal.New(refusal.CountBound, "", "%s more of %s are in carton …%s than there should be, and it is packed for %s. "+
					"Unpack it at Pack, have its goods put back, and count there.", m.Quantity, c.entry.SKU, b.Carton[14:], b.Document).
					Of(refusal.Conflict).With("document", b.Document)
			}
		}
		if m.ToState == posting.Returned {
			return refusal.New(refusal.CountBound, "", "%s more of %s lie in %s than came back on returns. Find out who sent them, and receive "+
				"them on a return.", m.Quantity, c.entry.SKU, c.entry.Bin).Of(refusal.Conflict)
		}
	}
	return nil
}

// refusal says what is to be done before so many are counted away.
func (b bound) refusal(e Entry, gone decimal.Decimal) error {
	what := fmt.Sprintf("%s of %s there", b.Quantity, e.SKU)
	if b.By == packed {
		what = fmt.Sprintf("carton …%s", b.Carton[14:])
	}
	return refusal.New(refusal.CountBound, "", "%s of %s are missing in %s, but %s "+finish[b.By]+". Then count what is where it went.",
		gone, e.SKU, e.Bin, what, b.Document).Of(refusal.Conflict).With("document", b.Document)
}
