package returns

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Fate is what becomes of goods that came back.
type Fate string

// The fates there are: good again, on the dock to be put away; held; damaged; to be repaired, and then sent to the
// customer again; on the dock for an order to its supplier; or off the books.
const (
	ToStock      Fate = "stock"
	ToQuarantine Fate = "quarantine"
	ToDamaged    Fate = "damaged"
	ToRepair     Fate = "repair"
	ToSupplier   Fate = "supplier"
	ToScrap      Fate = "scrap"
)

// ends are where goods of each fate go, and the condition that they are in there.
var ends = map[Fate]struct {
	kind      string
	condition posting.Condition
	words     string
}{
	ToStock:      {"dock", posting.Good, "back to stock"},
	ToQuarantine: {"quarantine", posting.Held, "to quarantine"},
	ToDamaged:    {"damaged", posting.Damaged, "to the damaged corner"},
	ToRepair:     {"quarantine", posting.Held, "to be repaired"},
	ToSupplier:   {"dock", posting.Good, "back to the supplier"},
	ToScrap:      {"", posting.Good, "to scrap"},
}

// Verdict is what becomes of goods of a line.
type Verdict struct {
	Version  int32    `json:"version"`
	LineID   int64    `json:"line_id"`
	Fate     Fate     `json:"fate" enum:"stock,quarantine,damaged,repair,supplier,scrap"`
	Quantity string   `json:"quantity" maxLength:"40"`
	Serials  []string `json:"serials,omitempty" maxItems:"200" doc:"The units, where they are known"`
	Reason   string   `json:"reason,omitempty" maxLength:"200" doc:"Why; needed for what is not good again"`
	// SupplierID is who gets them back; who supplied them last without.
	SupplierID int32 `json:"supplier_id,omitempty"`
}

// decision is a verdict that was read and found right, with the moves that it makes.
type decision struct {
	*ledger.Plan
	order    Return
	line     Line
	quantity decimal.Decimal
	value    decimal.Decimal
	kind     posting.Kind
	supplier supplier
}

// planVerdict says what a verdict moves, and refuses what cannot be.
func planVerdict(ctx context.Context, q sqlx.QueryerContext, id int64, in Verdict) (*decision, error) {
	o, err := Read(ctx, q, id)
	if err != nil {
		return nil, err
	}
	d := &decision{order: o, kind: posting.DecideReturn}
	if d.line, d.quantity, err = o.verdictOn(in); err != nil {
		return nil, err
	}
	move := ledger.Move{Item: d.line.ItemID, Lot: d.line.LotID, Quantity: d.quantity, From: d.line.LocationID,
		FromState: posting.Returned, ToState: ends[in.Fate].condition}
	if move.To, err = whereTo(ctx, q, o.SiteID, in.Fate); err != nil {
		return nil, err
	}
	if in.Fate == ToSupplier {
		if d.supplier, err = d.line.supplier(ctx, q, in.SupplierID); err != nil {
			return nil, err
		}
	}
	if in.Fate == ToScrap {
		d.kind = posting.Dispose
	}
	if in.Fate == ToScrap || in.Fate == ToSupplier {
		d.value = d.quantity.Mul(d.line.UnitCost).Round(2)
	}
	// A lot that is known only on the way out is none in stock.
	if d.line.Tracking == receiving.LotOut {
		move.Lot = nil
	}
	moves, err := d.line.spread(ctx, q, move, in.Serials)
	if err != nil {
		return nil, err
	}
	if d.Plan, err = ledger.DescribeOnward(ctx, q, moves); err != nil {
		return nil, err
	}
	d.tell(in)
	return d, nil
}

// spread makes one move for each unit, where units are known.
func (l Line) spread(ctx context.Context, q sqlx.QueryerContext, m ledger.Move, units []string) ([]ledger.Move, error) {
	return serials.Spread(ctx, q, "serials", l.Tracking, l.SKU, m, units)
}

// verdictOn is the line that a verdict is on, and over how many.
func (o Return) verdictOn(in Verdict) (l Line, quantity decimal.Decimal, err error) {
	at := slices.IndexFunc(o.Lines, func(l Line) bool { return l.ID == in.LineID })
	if at < 0 {
		return l, quantity, refusal.New(refusal.LineUnknown, "line_id", "%s has no such line.", o.Number).Of(refusal.Missing)
	}
	l = o.Lines[at]
	if quantity, err = measure.Parse("quantity", in.Quantity, measure.Unit{Name: l.Unit, Whole: l.Whole}); err != nil {
		return l, quantity, err
	}
	if quantity.GreaterThan(l.left()) {
		return l, quantity, refusal.New(refusal.OverWanted, "quantity",
			"%s of %s came on %s and %s of them are decided: %s are left, not %s.", l.Received, l.SKU, o.Number, l.Decided,
			l.left(), quantity).Of(refusal.Conflict).With("left", l.left())
	}
	if l.Tracking == receiving.Serial && !quantity.Equal(decimal.NewFromInt(int64(len(in.Serials)))) {
		return l, quantity, refusal.New(refusal.SerialsTotal, "serials",
			"%d serials are entered for %s of %s. Say which units it is about.", len(in.Serials), quantity, l.SKU)
	}
	if in.Fate != ToStock && people.SaysTooLittle(strings.TrimSpace(in.Reason)) {
		return l, quantity, refusal.New(refusal.ReasonMissing, "reason",
			"Write in a few words why %s of %s do not go back to stock; it stays in the trail.", quantity, l.SKU)
	}
	return l, quantity, nil
}

// whereTo is where goods of a fate go.
func whereTo(ctx context.Context, q sqlx.QueryerContext, site int32, fate Fate) (int32, error) {
	if fate != ToScrap {
		p, err := catalog.OneLocation(ctx, q, site, ends[fate].kind)
		return p.ID, err
	}
	return catalog.Scrapped(ctx, q)
}

// tell adds what becomes of the line, and what scrap was worth.
func (d *decision) tell(in Verdict) {
	l := d.line
	d.Changes = append(d.Changes, ledger.Change{What: l.SKU + " of " + d.order.Number + ", decided",
		Before: l.Decided.String() + " of " + l.Received.String(),
		After:  l.Decided.Add(d.quantity).String() + " of " + l.Received.String()})
	if in.Fate == ToScrap {
		d.Notes = append(d.Notes, fmt.Sprintf("It goes off the books: %s of %s worth %s.", d.quantity, l.SKU,
			d.value.StringFixed(2)))
	}
	if in.Fate == ToSupplier {
		d.Notes = append(d.Notes, fmt.Sprintf("An order over it goes to %s, released, for which it is reserved on the dock. A credit of %s is expected.",
			d.supplier.Name, d.value.StringFixed(2)))
	}
	if in.Fate == ToStock {
		d.Notes = append(d.Notes, "It stands on the dock from then on, free, to be put away.")
	}
	d.Button = fmt.Sprintf("%s of %s %s", d.quantity, l.SKU, ends[in.Fate].words)
}

// Decide moves goods that came back to where they go from now on. Who decided it and why stands in the trail.
func Decide(ctx context.Context, tx *command.Tx, id int64, in Verdict) (Return, error) {
	if _, err := change(ctx, tx, id, in.Version, "decided on it"); err != nil {
		return Return{}, err
	}
	if err := decide(ctx, tx, id, in); err != nil {
		return Return{}, err
	}
	return give(ctx, tx, id)
}

// decide moves the goods and notes what became of them. The return is held.
func decide(ctx context.Context, tx *command.Tx, id int64, in Verdict) error {
	d, err := planVerdict(ctx, tx, id, in)
	if err != nil {
		return err
	}
	note := strings.TrimSpace(d.order.Customer + ", " + ends[in.Fate].words + ": " + strings.TrimSpace(in.Reason))
	posted, err := ledger.Post(ctx, tx, ledger.Head{Kind: d.kind, Document: d.order.Number,
		Note: strings.TrimSuffix(note, ":")}, d.MoveList())
	if err != nil {
		return err
	}
	var out *int64
	if in.Fate == ToSupplier {
		if out, err = d.backToSupplier(ctx, tx); err != nil {
			return err
		}
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO return_decisions (line_id, fate, quantity, serials, value, reason, posting_id, decided_by, decided_at,
		  outbound_id)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`, in.LineID, in.Fate, d.quantity, strings.Join(in.Serials, ", "), d.value,
		strings.TrimSpace(in.Reason), posted, tx.Person.ID, tx.Now, out); err != nil {
		return fmt.Errorf("noting a decision: %w", err)
	}
	tx.NotifySite(d.order.SiteID, ledger.Topics(append(topics, "putaway")...)...)
	return nil
}
