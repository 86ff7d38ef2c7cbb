package audit

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/countrequests"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Decision is why a count is settled as it was made, and the questions that were answered with yes.
type Decision struct {
	Reason string       `json:"reason" maxLength:"200"`
	Sure   refusal.Sure `json:"sure,omitempty" maxItems:"10"`
}

// A Replanner plans the orders anew that so many of these goods were reserved for: from other bins, as far as there is
// any. The orders are held by reservation.HoldFloor, and the bin is put down for counting.
type Replanner func(ctx context.Context, tx *command.Tx, goods ledger.Stock, over decimal.Decimal) error

// open reads a count that waits for a decision, and compares it anew.
func open(ctx context.Context, q sqlx.QueryerContext, id int64) (counted, string, error) {
	var row struct {
		Number, Sku string
		State       states.Count
		AsOf        int64 `db:"as_of"`
		Written     []byte
	}
	if err := sqlx.GetContext(ctx, q, &row, `
		SELECT c.number, i.sku, c.state, c.as_of, c.written FROM counts c JOIN items i ON i.id = c.item_id WHERE c.id = $1`,
		id); err != nil {
		return counted{}, "", documents.Found(err, "count", fmt.Sprint(id))
	}
	if row.State != states.CountCounted {
		return counted{}, "", refusal.New(refusal.CountOver, "", "%s of %s is %s already.", row.Number, row.Sku,
			states.Label(row.State)).Of(refusal.Conflict)
	}
	var in Count
	if err := json.Unmarshal(row.Written, &in); err != nil {
		return counted{}, "", fmt.Errorf("reading %s: %w", row.Number, err)
	}
	entry, lies, err := readEntry(ctx, q, in.LocationID, in.ItemID)
	if err != nil {
		return counted{}, "", err
	}
	c, err := compare(ctx, q, entry, lies, in, row.AsOf)
	return c, row.Number, err
}

// planSettle shows what settling a count does.
func planSettle(ctx context.Context, q sqlx.QueryerContext, id int64, sure refusal.Sure) (*ledger.Plan, error) {
	c, _, err := open(ctx, q, id)
	if err != nil {
		return nil, err
	}
	return c.plan(ctx, q, sure)
}

// Settle accepts a count that differs, and says why: what differed when it was counted goes to lost and found, or comes
// from there, and the bin is to be counted no more. Orders that what is counted away was reserved for are planned anew,
// where that was agreed to.
func Settle(ctx context.Context, tx *command.Tx, id int64, d Decision, replan Replanner) (Done, error) {
	reason, err := saysEnough(d.Reason, "why the difference is accepted")
	if err != nil {
		return Done{}, err
	}
	if err := holdBin(ctx, tx, id); err != nil {
		return Done{}, err
	}
	c, number, err := open(ctx, tx, id)
	if err != nil {
		return Done{}, err
	}
	plan, err := c.plan(ctx, tx, d.Sure)
	if err != nil {
		return Done{}, err
	}
	if err := c.replanOrders(ctx, tx, replan); err != nil {
		return Done{}, err
	}
	err = documents.Step(ctx, tx, states.Counts, []int64{id}, states.CountAccepted,
		"reason = $4, decided_by = $5, decided_at = $6", reason, tx.Person.ID, tx.Now)
	if err != nil {
		return Done{}, err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Count, Document: number, Note: reason},
		plan.MoveList()); err != nil {
		return Done{}, err
	}
	words := fmt.Sprintf("%s is settled: %s of %s were in %s.", number, c.found, c.entry.SKU, c.entry.Bin)
	return Done{ID: id, Words: words}, settled(ctx, tx, c)
}

// replanOrders plans anew whatever is reserved of what is counted away. While it does, the bin is down for counting, so
// that nothing is planned from it again.
func (c *counted) replanOrders(ctx context.Context, tx *command.Tx, replan Replanner) error {
	over, err := c.over()
	if err != nil {
		return err
	}
	if len(over) == 0 {
		return nil
	}
	if err := countrequests.Raise(ctx, tx, countrequests.Request{Location: c.in.LocationID, Item: c.in.ItemID, Why: countrequests.Anew}); err != nil {
		return err
	}
	for _, o := range over {
		goods := ledger.Stock{Location: c.entry.LocationID, Item: c.entry.ItemID, Lot: o.kind.LotID, Carton: o.kind.CartonID}
		if err := replan(ctx, tx, goods, o.over); err != nil {
			return err
		}
	}
	return nil
}

// saysEnough refuses a reason that says too little.
func saysEnough(reason, what string) (string, error) {
	if reason = strings.TrimSpace(reason); people.SaysTooLittle(reason) {
		return "", refusal.New(refusal.ReasonShort, "reason", "%q says too little. Write in a few words %s; it stays in the trail.", reason, what)
	}
	return reason, nil
}

// Again withdraws a count that differs, and has the bin counted again.
func Again(ctx context.Context, tx *command.Tx, id int64) (Done, error) {
	if err := holdBin(ctx, tx, id); err != nil {
		return Done{}, err
	}
	err := documents.Step(ctx, tx, states.Counts, []int64{id}, states.CountWithdrawn,
		"decided_by = $4, decided_at = $5", tx.Person.ID, tx.Now)
	if err != nil {
		return Done{}, err
	}
	number, err := putDown(ctx, tx, id)
	if err != nil {
		return Done{}, err
	}
	return Done{ID: id, Words: number + " is withdrawn. The bin is to be counted again."}, backOnSheet(ctx, tx, id)
}

// TakeBack takes a settled count back: what it moved goes back by a posting of its own, and the bin is put down for
// counting.
func TakeBack(ctx context.Context, tx *command.Tx, id int64, reason string) (Done, error) {
	reason, err := saysEnough(reason, "why the count is taken back")
	if err != nil {
		return Done{}, err
	}
	if err := holdBin(ctx, tx, id); err != nil {
		return Done{}, err
	}
	number, moves, err := opposite(ctx, tx, id)
	if err != nil {
		return Done{}, err
	}
	err = documents.Step(ctx, tx, states.Counts, []int64{id}, states.CountTakenBack,
		"taken_back_why = $4, taken_back_by = $5, taken_back_at = $6", reason, tx.Person.ID, tx.Now)
	if err != nil {
		return Done{}, err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Count, Document: number, Note: "taken back: " + reason}, moves); err != nil {
		return Done{}, err
	}
	if _, err := putDown(ctx, tx, id); err != nil {
		return Done{}, err
	}
	return Done{ID: id, Words: number + " is taken back: what it moved is moved back, and the bin is to be counted again."}, nil
}

// planTakeBack shows what taking a settled count back does.
func planTakeBack(ctx context.Context, q sqlx.QueryerContext, id int64) (*ledger.Plan, error) {
	number, moves, err := opposite(ctx, q, id)
	if err != nil {
		return nil, err
	}
	plan, err := ledger.Describe(ctx, q, moves)
	if err == nil {
		plan.Button = "Take back " + number
	}
	return plan, err
}

// opposite are the moves that undo those of a settled count.
func opposite(ctx context.Context, q sqlx.QueryerContext, id int64) (number string, moves []ledger.Move, err error) {
	var c struct {
		Number string
		State  states.Count
	}
	if err := sqlx.GetContext(ctx, q, &c, `SELECT number, state FROM counts WHERE id = $1`, id); err != nil {
		return "", nil, documents.Found(err, "count", fmt.Sprint(id))
	}
	if c.State != states.CountAccepted {
		return "", nil, refusal.New(refusal.CountOver, "", "%s is %s. Only a settled count is taken back.", c.Number, states.Label(c.State)).
			Of(refusal.Conflict)
	}
	var rows []struct {
		Item      int32 `db:"item_id"`
		Lot       *int64
		Serial    *int64
		Code      string
		From, To  int32
		FromBox   *int64            `db:"from_box"`
		ToBox     *int64            `db:"to_box"`
		FromState posting.Condition `db:"from_state"`
		ToState   posting.Condition `db:"to_state"`
		Quantity  decimal.Decimal
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT m.item_id, m.lot_id AS lot, m.serial_id AS serial, coalesce(s.code, '') AS code, m.to_location AS "from", m.from_location AS "to",
		       m.to_carton AS from_box, m.from_carton AS to_box, m.to_condition AS from_state, m.from_condition AS to_state, m.quantity
		  FROM postings t JOIN moves m ON m.posting_id = t.id LEFT JOIN serials s ON s.id = m.serial_id
		 WHERE t.document = $1 AND t.kind = 'count' ORDER BY m.id`, c.Number); err != nil {
		return "", nil, fmt.Errorf("reading what %s moved: %w", c.Number, err)
	}
	if len(rows) == 0 {
		return "", nil, refusal.New(refusal.CountOver, "", "%s agreed with the books and moved nothing. There is nothing to take back.", c.Number)
	}
	for _, r := range rows {
		moves = append(moves, ledger.Move{Item: r.Item, Lot: r.Lot, Serial: r.Serial, SerialCode: r.Code, From: r.From, To: r.To,
			FromBox: r.FromBox, FromState: r.FromState, ToBox: r.ToBox, ToState: r.ToState, Quantity: r.Quantity})
	}
	return c.Number, moves, nil
}

// putDown puts what a count was of down for counting, unless it is already.
func putDown(ctx context.Context, tx *command.Tx, id int64) (number string, err error) {
	var of struct {
		SiteID     int32 `db:"site_id"`
		LocationID int32 `db:"location_id"`
		ItemID     int32 `db:"item_id"`
		Number     string
		Found      decimal.Decimal
	}
	if err := tx.GetContext(ctx, &of, `SELECT site_id, location_id, item_id, number, found FROM counts WHERE id = $1`, id); err != nil {
		return "", fmt.Errorf("reading a count: %w", err)
	}
	tx.NotifySite(of.SiteID, ledger.Topics("audit", "pick", "orders", "row")...)
	return of.Number, countrequests.Raise(ctx, tx, countrequests.Request{Location: of.LocationID, Item: of.ItemID, Why: countrequests.Anew,
		Found: &of.Found})
}

// holdBin keeps the bin that was counted to the transaction, behind the orders that goods in it are reserved for and
// the sheet that it was counted for.
func holdBin(ctx context.Context, tx *command.Tx, id int64) error {
	var of struct {
		Bin   int32
		Sheet *int64
	}
	if err := tx.GetContext(ctx, &of, `SELECT location_id AS bin, sheet_id AS sheet FROM counts WHERE id = $1`, id); err != nil {
		return documents.Found(err, "count", fmt.Sprint(id))
	}
	var orders []int64
	if err := tx.SelectContext(ctx, &orders, `
		SELECT DISTINCT l.order_id FROM counts c JOIN reservations r ON r.location_id = c.location_id AND r.item_id = c.item_id
		  JOIN outbound_lines l ON l.id = r.line_id WHERE c.id = $1 ORDER BY 1`, id); err != nil {
		return fmt.Errorf("reading who goods are reserved for: %w", err)
	}
	if len(orders) > 0 {
		if err := reservation.HoldFloor(ctx, tx, orders...); err != nil {
			return err
		}
	}
	if of.Sheet != nil {
		if err := documents.Hold(ctx, tx, documents.Own(documents.CountSheet, *of.Sheet)); err != nil {
			return err
		}
	}
	return ledger.LockBins(ctx, tx, []int32{of.Bin})
}
