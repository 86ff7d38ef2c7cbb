// Package returns is the commercial side of goods that customers send back. A return is an inbound order from the
// customer: it is announced, its goods come in at the returns corner and are not free, somebody decides unit by
// unit what becomes of them, and the customer gets what the kind of return gives.
package returns

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/countrequests"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

var topics = []string{"returns", "receive", "row"}

// New is a return as it is announced. All of it went to one customer.
type New struct {
	SiteID int32  `json:"site_id" doc:"Where the goods come to"`
	KindID int32  `json:"kind_id"`
	Note   string `json:"note,omitempty" maxLength:"200"`
	// Sure are the questions that are answered with yes.
	Sure  refusal.Sure `json:"sure,omitempty"`
	Lines []NewLine    `json:"lines" minItems:"1" maxItems:"200"`
}

// NewLine is goods of a shipment that come back.
type NewLine struct {
	ShipmentID int64    `json:"shipment_id"`
	LineID     int64    `json:"line_id" doc:"The line of the order that they went on"`
	LotID      *int64   `json:"lot_id,omitempty"`
	Quantity   string   `json:"quantity" maxLength:"40"`
	Serials    []string `json:"serials,omitempty" maxItems:"200" doc:"The units, where they are known"`
	ReasonID   int32    `json:"reason_id"`
	Said       string   `json:"said,omitempty" maxLength:"200" doc:"What the customer says of their condition"`
}

// announced is a return that was read and found right.
type announced struct {
	New
	kind  Kind
	lines []announcedLine
	// reason is why goods are taken that no paper is known of.
	reason string
}

type announcedLine struct {
	NewLine
	sold     Sold
	quantity decimal.Decimal
}

// read reads what was announced, and refuses what cannot come back.
func (in New) read(ctx context.Context, q sqlx.QueryerContext, now time.Time) (a announced, err error) {
	a.New = in
	if a.kind, err = readKind(ctx, q, in.KindID); err != nil {
		return a, err
	}
	if !a.kind.Papered {
		return a, refusal.New(refusal.PaperUnwanted, "kind_id",
			"%s is for goods that no paper is known of. Choose another kind for what was shipped.", a.kind.Name)
	}
	reasons, err := listReasons(ctx, q)
	if err != nil {
		return a, err
	}
	var shipments []int64
	for _, l := range in.Lines {
		shipments = append(shipments, l.ShipmentID)
	}
	sold, err := readSold(ctx, q, shipments, now)
	if err != nil {
		return a, err
	}
	for i, l := range in.Lines {
		field := fmt.Sprintf("lines[%d]", i)
		line, err := l.read(field, i, sold, reasons)
		if err != nil {
			return a, err
		}
		if err := a.fits(field, line); err != nil {
			return a, err
		}
		a.lines = append(a.lines, line)
	}
	return a, nil
}

// fits refuses a line of another customer, one that stands twice, and asks about goods that are out too long.
func (a announced) fits(field string, l announcedLine) error {
	for _, before := range a.lines {
		if before.sold.CustomerID != l.sold.CustomerID {
			return refusal.New(refusal.OrderElsewhere, field+".shipment_id",
				"%s went to %s, and %s to %s. One return is of one customer.", before.sold.Shipment, before.sold.Customer,
				l.sold.Shipment, l.sold.Customer).Of(refusal.Conflict)
		}
		if before.ShipmentID == l.ShipmentID && before.LineID == l.LineID && before.sold.Lot == l.sold.Lot {
			return refusal.New(refusal.LineTwice, field, "%s of %s stands twice. Put all of it on one line.", l.sold.SKU,
				l.sold.Shipment)
		}
	}
	most := a.kind.WithinDays
	return a.Sure.Ask(most != nil && l.sold.DaysAgo > *most, refusal.Question(refusal.ReturnLate, field+".shipment_id",
		"%s was shipped %d days ago, and %s is taken for %d days. Choose another kind, or say that it is meant so.",
		l.sold.Shipment, l.sold.DaysAgo, strings.ToLower(a.kind.Name), dayCount(most)))
}

func dayCount(n *int) int {
	if n == nil {
		return 0
	}
	return *n
}

// read holds a line against what went to the customer.
func (l NewLine) read(field string, i int, sold []Sold, reasons []Reason) (out announcedLine, err error) {
	out.NewLine = l
	at := slices.IndexFunc(sold, func(s Sold) bool {
		return s.ShipmentID == l.ShipmentID && s.LineID == l.LineID && (l.LotID == nil && s.LotID == nil ||
			l.LotID != nil && s.LotID != nil && *l.LotID == *s.LotID)
	})
	if at < 0 {
		// What another site of ours was shipped went to no customer: it is in transit, or there.
		return out, refusal.New(refusal.LineUnknown, field+".line_id",
			"Line %d is no goods that were shipped to a customer with that shipment. Find them by delivery note, order, lot or serial; what "+
				"is in transit between two sites is received, or settled as a difference, at Transfers.", i+1)
	}
	out.sold = sold[at]
	if !knownReason(reasons, l.ReasonID) {
		return out, refusal.New(refusal.ReasonMissing, field+".reason_id", "Choose why %s of %s comes back.", out.sold.SKU,
			out.sold.Shipment)
	}
	if out.quantity, err = measure.Parse(field+".quantity", l.Quantity, measure.Unit{Name: out.sold.Unit,
		Whole: out.sold.Whole}); err != nil {
		return out, err
	}
	if out.quantity.GreaterThan(out.sold.Returnable) {
		return out, refusal.New(refusal.OverReturnable, field+".quantity",
			"%s of %s were shipped with %s, and %s may still be returned, not %s. The rest is on returns already.",
			out.sold.Shipped, out.sold.SKU, out.sold.Shipment, out.sold.Returnable, out.quantity).Of(refusal.Conflict).
			With("returnable", out.sold.Returnable)
	}
	return out, out.checkUnits(field)
}

// checkUnits refuses units that did not go to the customer with the shipment, or are on a return already.
func (l announcedLine) checkUnits(field string) error {
	unitwise := l.sold.Tracking == receiving.Serial || l.sold.Tracking == receiving.SerialOut
	switch {
	case !unitwise && len(l.Serials) > 0:
		return refusal.New(refusal.SerialUnwanted, field+".serials", "%s needs no serials. Leave them out.", l.sold.SKU)
	case !unitwise:
		return nil
	case !l.quantity.Equal(decimal.NewFromInt(int64(len(l.Serials)))):
		return refusal.New(refusal.SerialsTotal, field+".serials",
			"%d serials are entered for %s of %s. Say which units come back.", len(l.Serials), l.quantity, l.sold.SKU)
	}
	if err := receiving.CheckSerials(field+".serials", l.sold.SKU, l.Serials); err != nil {
		return err
	}
	for _, code := range l.Serials {
		if !slices.Contains(l.sold.Serials, code) {
			return refusal.New(refusal.WrongSerial, field+".serials",
				"Serial %s of %s did not go to %s with %s, or is on another return. Those that may come back are: %s.", code,
				l.sold.SKU, l.sold.Customer, l.sold.Shipment, strings.Join(l.sold.Serials, ", ")).Of(refusal.Conflict)
		}
	}
	return nil
}

// A Foresight is what a return would be, before it is announced.
type Foresight struct {
	Customer string   `json:"customer"`
	SendBy   string   `json:"send_by" doc:"Empty where the goods stay with the customer"`
	Notes    []string `json:"notes"`
	Button   string   `json:"button"`
}

// preview says what would be announced.
func preview(ctx context.Context, q sqlx.QueryerContext, in New, now time.Time) (Foresight, error) {
	a, err := in.read(ctx, q, now)
	if err != nil {
		return Foresight{Notes: []string{}}, err
	}
	return a.foresee(now), nil
}

// foresee says what would be announced.
func (a announced) foresee(now time.Time) Foresight {
	total := decimal.Zero
	for _, l := range a.lines {
		total = total.Add(l.quantity)
	}
	out := Foresight{Customer: a.lines[0].sold.Customer, Notes: []string{a.kind.words()},
		Button: fmt.Sprintf("Announce %s from %s", total, a.lines[0].sold.Customer)}
	if a.kind.Approved {
		out.Notes = append(out.Notes, "Somebody has to approve it first.")
	}
	if a.kind.GoodsStay {
		out.Notes = append(out.Notes, "The goods stay with the customer: nothing is sent in, and they may not be returned again.")
		return out
	}
	out.SendBy = a.sendBy(now).Format(time.DateOnly)
	if a.kind.Decides != "" {
		out.Notes = append(out.Notes, a.kind.Decides.byItself())
	}
	return out
}

// words say what the customer gets.
func (k Kind) words() string {
	after := map[string]string{"announced": "at once", "received": "once all of it is received",
		"decided": "once all of it is decided"}[string(k.When)]
	switch k.Gives {
	case Money:
		words := "The customer gets the money " + after
		if k.FeePct.IsPositive() {
			words += fmt.Sprintf(", less %s %%", k.FeePct)
		}
		if !k.Taxed {
			words += ", without tax"
		}
		return words + "."
	case SomethingElse:
		return "The customer gets something else " + after + ", and the difference in money."
	case SameAgain:
		return "The customer gets the same again, sent by itself " + after + "."
	}
	return "The customer gets nothing for it."
}

func (a announced) sendBy(now time.Time) time.Time { return now.AddDate(0, 0, a.kind.SendInDays) }

// Create announces a return. One of a kind that is approved first waits for that.
func Create(ctx context.Context, tx *command.Tx, in New) (Return, error) {
	ids := make([]int64, len(in.Lines))
	for i, l := range in.Lines {
		ids[i] = l.ShipmentID
	}
	// What went back of a shipment is counted by one at a time.
	if err := documents.Hold(ctx, tx, documents.Own(documents.Shipment, ids...)); err != nil {
		return Return{}, err
	}
	a, err := in.read(ctx, tx, tx.Now)
	if err != nil {
		return Return{}, err
	}
	return a.create(ctx, tx)
}

// create writes a return that was found right.
func (a announced) create(ctx context.Context, tx *command.Tx) (Return, error) {
	in := a.New
	if err := catalog.EnsureScrapped(ctx, tx); err != nil {
		return Return{}, err
	}
	state := states.Placed
	if a.kind.Approved {
		state = states.Draft
	}
	first := a.lines[0].sold
	id, err := inbound.Create(ctx, tx, inbound.New{Kind: inbound.CustomerReturn, SiteID: in.SiteID, PartyID: first.CustomerID,
		SourceID: first.SourceID, State: state, ExpectedOn: a.sendBy(tx.Now), Note: strings.TrimSpace(in.Note),
		AsksFound: a.kind.Inspected, Change: "announced it"})
	if err != nil {
		return Return{}, err
	}
	if err := a.write(ctx, tx, id); err != nil {
		return Return{}, err
	}
	if a.kind.GoodsStay && state == states.Placed {
		if err := leave(ctx, tx, id); err != nil {
			return Return{}, err
		}
	}
	tx.NotifySite(in.SiteID, topics...)
	return give(ctx, tx, id)
}

// write writes a return's own side, and its lines.
func (a announced) write(ctx context.Context, tx *command.Tx, id int64) error {
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO returns (order_id, kind_id, announced_at, gives, gives_when, taxed, fee_pct, reason, decides,
		  goods_stay)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`, id, a.kind.ID, tx.Now, a.kind.Gives, a.kind.When, a.kind.Taxed, a.kind.FeePct,
		a.reason, a.kind.Decides, a.kind.GoodsStay); err != nil {
		return fmt.Errorf("writing a return: %w", err)
	}
	lines := make([]inbound.NewLine, len(a.lines))
	for i, l := range a.lines {
		cost := l.sold.UnitCost
		lines[i] = inbound.NewLine{Item: l.sold.ItemID, Quantity: l.quantity, UnitCost: &cost}
	}
	ids, err := inbound.AddLines(ctx, tx, id, lines)
	if err != nil {
		return err
	}
	for i, l := range a.lines {
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO return_lines (line_id, shipment_id, sold_line_id, lot_id, reason_id, said)
			VALUES ($1, nullif($2::bigint, 0), nullif($3::bigint, 0), $4, $5, $6)`, ids[i], l.ShipmentID, l.LineID, l.LotID, l.ReasonID,
			strings.TrimSpace(l.Said)); err != nil {
			return fmt.Errorf("writing a return's line: %w", err)
		}
		if err := l.writeUnits(ctx, tx, ids[i]); err != nil {
			return err
		}
		if err := l.raise(ctx, tx); err != nil {
			return err
		}
	}
	return nil
}

// raise puts the bins that goods were picked from down for counting, where the reason says that others or fewer were
// sent.
func (l announcedLine) raise(ctx context.Context, tx *command.Tx) error {
	var bins []int32
	if err := tx.SelectContext(ctx, &bins, `
		SELECT DISTINCT s.location_id FROM round_stops s JOIN return_reasons r ON r.id = $2 AND r.counted
		  JOIN locations p ON p.id = s.location_id AND p.kind = 'bin' WHERE s.line_id = $1 AND s.item_id = $3 AND s.picked > 0 ORDER BY 1`,
		l.LineID, l.ReasonID, l.sold.ItemID); err != nil {
		return fmt.Errorf("reading where goods were picked: %w", err)
	}
	for _, bin := range bins {
		if err := countrequests.Raise(ctx, tx, countrequests.Request{Location: bin, Item: l.sold.ItemID, Why: countrequests.Complaint}); err != nil {
			return err
		}
	}
	return nil
}

func (l announcedLine) writeUnits(ctx context.Context, tx *command.Tx, line int64) error {
	if len(l.Serials) == 0 {
		return nil
	}
	found, err := serials.Find(ctx, tx, l.sold.ItemID, l.Serials)
	if err != nil {
		return err
	}
	for _, code := range l.Serials {
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO return_units (line_id, serial_id) VALUES ($1, $2)`, line, found[code].ID); err != nil {
			return fmt.Errorf("writing a return's units: %w", err)
		}
	}
	return nil
}
