package purchasing

import (
	"context"
	"fmt"

	"lanternrow/internal/core/valuation"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/value"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Less than this is left alone: half a cent over a line, and what the four decimals of a cost round off of each unit.
var (
	halfACent = decimal.New(5, -3)
	rounded   = decimal.New(5, -5)
)

// mostLines is how many lines an invoice has at most, and so how many items it re-costs.
const mostLines = 500

// recost brings what came on orders to what it costs as it is known now: what is invoiced at what was asked for it, the
// rest at the prices of the order, each with what it bears of the freight, and reads the first of them as it is then. The
// orders are held.
func recost(ctx context.Context, tx *command.Tx, orders []Order, why string) (first Order, err error) {
	var more []ledger.More
	for i, o := range orders {
		now, err := readOrder(ctx, tx, o.ID)
		if err != nil {
			return first, err
		}
		if i == 0 {
			first = now
		}
		if err := now.keepLanded(ctx, tx); err != nil {
			return first, err
		}
		booked, err := readBooked(ctx, tx, o.ID)
		if err != nil {
			return first, err
		}
		for _, l := range now.Lines {
			more = append(more, booked[l.ID].upTo(l)...)
		}
	}
	tx.NotifySite(first.SiteID, append(topics, "stock")...)
	return first, ledger.Recost(ctx, tx, ledger.Head{Document: first.Number, Note: why}, more)
}

// foresee is what a command would re-cost. It refuses what the command refuses.
func foresee(
	ctx context.Context, r *command.Runner, enter func(context.Context, *command.Tx) (Order, error),
) ([]value.Entry, error) {
	return command.Rehearse(ctx, r, func(ctx context.Context, tx *command.Tx) ([]value.Entry, error) {
		last, err := value.LastEntry(ctx, tx)
		if err != nil {
			return nil, err
		}
		o, err := enter(ctx, tx)
		if err != nil {
			return nil, err
		}
		return value.Entries(ctx, tx, value.Entered{Document: o.Number, Limit: mostLines}, last)
	})
}

// booked is what came on a line and stands, by the moves that brought it, and what is invoiced of it.
type booked struct {
	moves []brought
	// quantity and cost are over all moves; asked is what the invoices ask for those invoiced.
	quantity, cost, invoiced, asked decimal.Decimal
}

// brought is what a move brought.
type brought struct {
	move     int64
	quantity decimal.Decimal
}

// upTo is what has to be added to the books for a line, over the moves that brought its goods by their quantities.
func (b *booked) upTo(l Line) []ledger.More {
	if b == nil || !b.quantity.IsPositive() {
		return nil
	}
	left := b.asked.Add(b.quantity.Sub(b.invoiced).Mul(l.Price)).Add(l.bears(b.quantity)).Sub(b.cost)
	if left.Abs().LessThanOrEqual(halfACent.Add(rounded.Mul(b.quantity))) {
		return nil
	}
	var out []ledger.More
	rest := b.quantity
	for _, m := range b.moves {
		part := left.Mul(m.quantity).DivRound(rest, valuation.Decimals)
		if rest = rest.Sub(m.quantity); !part.IsZero() {
			out = append(out, ledger.More{Item: l.ItemID, Move: m.move, Amount: part})
		}
		left = left.Sub(part)
	}
	return out
}

// bears is what so many of a line bear of its freight: all of it, once all of the line came.
func (l Line) bears(quantity decimal.Decimal) decimal.Decimal {
	if quantity.Equal(l.counts()) {
		return l.Freight.Share
	}
	return l.Freight.Each.Mul(quantity)
}

// counts is how much of the line bears freight: what was ordered, or what came once nothing more is expected.
func (l Line) counts() decimal.Decimal {
	if l.Closed {
		return l.Received
	}
	return l.Quantity
}

// readBooked reads what came on an order's lines, with what it cost on the books.
func readBooked(ctx context.Context, q sqlx.QueryerContext, order int64) (map[int64]*booked, error) {
	var rows []struct {
		LineID   int64 `db:"line_id"`
		Move     int64 `db:"move_id"`
		Quantity decimal.Decimal
		Cost     decimal.Decimal
		Invoiced decimal.Decimal
		Asked    decimal.Decimal
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT b.line_id, m.id AS move_id, m.quantity,
		       m.quantity * m.unit_cost + coalesce((SELECT sum(amount) FROM recost_moves WHERE move_id = m.id), 0) AS cost,
		       coalesce(v.quantity, 0) AS invoiced, coalesce(v.asked, 0) AS asked
		  FROM inbound_lines l JOIN receipts b ON b.line_id = l.id AND b.undone_at IS NULL JOIN moves m ON m.id = b.move_id
		  LEFT JOIN LATERAL (
		       SELECT sum(x.quantity) AS quantity, sum(x.quantity * x.price) AS asked
		         FROM supplier_invoice_lines x JOIN supplier_invoices i ON i.id = x.invoice_id
		        WHERE x.line_id = l.id AND NOT i.waits AND NOT i.taken_back AND i.takes_back IS NULL) AS v ON true
		 WHERE l.order_id = $1 AND l.item_id IS NOT NULL ORDER BY b.line_id, m.id`, order); err != nil {
		return nil, fmt.Errorf("reading what goods cost on the books: %w", err)
	}
	out := map[int64]*booked{}
	for _, r := range rows {
		b := out[r.LineID]
		if b == nil {
			b = &booked{invoiced: r.Invoiced, asked: r.Asked}
			out[r.LineID] = b
		}
		b.moves = append(b.moves, brought{r.Move, r.Quantity})
		b.quantity, b.cost = b.quantity.Add(r.Quantity), b.cost.Add(r.Cost)
	}
	return out, nil
}
