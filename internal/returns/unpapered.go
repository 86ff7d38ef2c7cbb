package returns

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
)

// Unpapered is a return of goods that nobody has a paper of: what went to the customer with which shipment is not
// known.
type Unpapered struct {
	SiteID     int32           `json:"site_id" doc:"Where the goods come to"`
	KindID     int32           `json:"kind_id"`
	CustomerID int32           `json:"customer_id"`
	Reason     string          `json:"reason" maxLength:"200" doc:"Why they are taken all the same; it stays in the trail"`
	Note       string          `json:"note,omitempty" maxLength:"200"`
	Lines      []UnpaperedLine `json:"lines" minItems:"1" maxItems:"200"`
}

// UnpaperedLine is goods that come back without a paper.
type UnpaperedLine struct {
	ItemID   int32    `json:"item_id"`
	Lot      string   `json:"lot,omitempty" maxLength:"60" doc:"The lot, where lots are known; one of ours"`
	Quantity string   `json:"quantity" maxLength:"40"`
	Serials  []string `json:"serials,omitempty" maxItems:"200" doc:"The units, where they are known; ones that went to this customer"`
	ReasonID int32    `json:"reason_id"`
	Said     string   `json:"said,omitempty" maxLength:"200"`
}

// read reads what would come, and refuses what cannot.
func (in Unpapered) read(ctx context.Context, q sqlx.QueryerContext) (a announced, err error) {
	a.New = New{SiteID: in.SiteID, KindID: in.KindID, Note: in.Note}
	if a.kind, err = readKind(ctx, q, in.KindID); err != nil {
		return a, err
	}
	if a.reason = strings.TrimSpace(in.Reason); people.SaysTooLittle(a.reason) {
		return a, refusal.New(refusal.ReasonMissing, "reason",
			"Write in a few words why these goods are taken though no paper is known of; it stays in the trail.")
	}
	if a.kind.Papered {
		return a, refusal.New(refusal.PaperMissing, "kind_id",
			"%s needs what was shipped: find it by delivery note, order, invoice, lot or serial. Or choose a kind without paper.", a.kind.Name)
	}
	var customer struct {
		Name     string
		Location int32 `db:"location_id"`
	}
	if err = sqlx.GetContext(ctx, q, &customer, `SELECT name, location_id FROM parties WHERE id = $1 AND kind = 'customer'`,
		in.CustomerID); err != nil {
		return a, documents.FoundOr(err, refusal.New(refusal.CustomerUnknown, "customer_id", "Choose the customer who sends the goods."))
	}
	reasons, err := listReasons(ctx, q)
	if err != nil {
		return a, err
	}
	for i, l := range in.Lines {
		line, err := l.read(ctx, q, fmt.Sprintf("lines[%d]", i), in.SiteID, reasons)
		if err != nil {
			return a, err
		}
		line.sold.CustomerID, line.sold.Customer, line.sold.SourceID = in.CustomerID, customer.Name, customer.Location
		if err := line.wentTo(ctx, q, fmt.Sprintf("lines[%d].serials", i)); err != nil {
			return a, err
		}
		for _, before := range a.lines {
			if before.sold.ItemID == line.sold.ItemID && before.sold.Lot == line.sold.Lot {
				return a, refusal.New(refusal.LineTwice, fmt.Sprintf("lines[%d]", i), "%s stands twice. Put all of it on one line.", line.sold.SKU)
			}
		}
		a.lines = append(a.lines, line)
	}
	return a, a.onNoOther(ctx, q)
}

// read reads a line in the terms of one that was sold.
func (l UnpaperedLine) read(
	ctx context.Context, q sqlx.QueryerContext, field string, site int32, reasons []Reason,
) (out announcedLine, err error) {
	item, err := catalog.ItemByID(ctx, q, l.ItemID)
	if err != nil {
		return out, refusal.At(err, field+".item_id")
	}
	if err := catalog.Allowed(ctx, q, field+".item_id", item, site); err != nil {
		return out, err
	}
	out.NewLine = NewLine{Quantity: l.Quantity, Serials: l.Serials, ReasonID: l.ReasonID, Said: l.Said}
	out.sold = Sold{ItemID: item.ID, SKU: item.SKU, Unit: item.BaseUnit, Whole: item.Whole, Tracking: item.Tracking}
	if !knownReason(reasons, l.ReasonID) {
		return out, refusal.New(refusal.ReasonMissing, field+".reason_id", "Choose why %s comes back.", item.SKU)
	}
	if out.quantity, err = measure.Parse(field+".quantity", l.Quantity, item.Unit()); err != nil {
		return out, err
	}
	// At what it went out is not known: it comes back at what it costs here now.
	if err := sqlx.GetContext(ctx, q, &out.sold.UnitCost, `
		SELECT coalesce((SELECT round(average, 4) FROM item_costs WHERE item_id = $1 AND site_id = $2), cost) FROM items WHERE id = $1`,
		item.ID, site); err != nil {
		return out, fmt.Errorf("reading what an item costs: %w", err)
	}
	return out, out.lot(ctx, q, field, strings.TrimSpace(l.Lot))
}

// lot finds the lot that was named; it must be one of ours.
func (l *announcedLine) lot(ctx context.Context, q sqlx.QueryerContext, field, code string) error {
	tracked := l.sold.Tracking == receiving.Lot || l.sold.Tracking == receiving.LotExpiry || l.sold.Tracking == receiving.LotOut
	switch {
	case !tracked && code != "":
		return refusal.New(refusal.LotUnwanted, field+".lot", "%s has no lots. Leave the lot out.", l.sold.SKU)
	case tracked && code == "":
		return refusal.New(refusal.LotMissing, field+".lot", "Which lot of %s comes back stands on its label. Enter it.", l.sold.SKU)
	case !tracked:
		return nil
	}
	id, err := catalog.LotByCode(ctx, q, l.sold.ItemID, code)
	if err != nil {
		return documents.FoundOr(err, refusal.New(refusal.LotUnknown, field+".lot",
			"%s of %s is no lot of ours: it never came in here. Read the label again.", code, l.sold.SKU).Of(refusal.Conflict))
	}
	l.LotID, l.sold.LotID, l.sold.Lot = &id, &id, code
	return nil
}

// wentTo refuses units that are not with the customer by our books.
func (l announcedLine) wentTo(ctx context.Context, q sqlx.QueryerContext, field string) error {
	found, err := serials.Find(ctx, q, l.sold.ItemID, l.Serials)
	if err != nil {
		return err
	}
	for _, code := range l.Serials {
		u, known := found[code]
		switch {
		case !known || u.LocationID == 0 && l.sold.Tracking == receiving.Serial:
			return refusal.New(refusal.SerialNotOurs, field, "Serial %s of %s was never ours. Read the label again.", code, l.sold.SKU).
				Of(refusal.Conflict)
		case u.Real:
			return refusal.New(refusal.SerialInStock, field, "Serial %s of %s is in stock, %s: it cannot come back. Read the label again.",
				code, l.sold.SKU, u.Where()).Of(refusal.Conflict)
		case u.LocationID != 0 && u.LocationID != l.sold.SourceID:
			return refusal.New(refusal.WrongSerial, field, "Serial %s of %s is %s by our books, and not with %s.", code, l.sold.SKU, u.Where(),
				l.sold.Customer).Of(refusal.Conflict)
		}
	}
	l.sold.Serials = l.Serials
	return l.checkUnits(field[:len(field)-len(".serials")])
}

// previewUnpapered says what would be taken.
func previewUnpapered(ctx context.Context, q sqlx.QueryerContext, in Unpapered, now time.Time) (Foresight, error) {
	a, err := in.read(ctx, q)
	if err != nil {
		return Foresight{Notes: []string{}}, err
	}
	return a.foresee(now), nil
}

// CreateUnpapered announces a return of goods without a paper.
func CreateUnpapered(ctx context.Context, tx *command.Tx, in Unpapered) (Return, error) {
	// Who is on which return is counted by one at a time.
	if err := documents.Hold(ctx, tx, documents.Own(documents.Party, int64(in.CustomerID))); err != nil {
		return Return{}, err
	}
	a, err := in.read(ctx, tx)
	if err != nil {
		return Return{}, err
	}
	return a.create(ctx, tx)
}

// onNoOther refuses units that another return expects already.
func (a announced) onNoOther(ctx context.Context, q sqlx.QueryerContext) error {
	for i, l := range a.lines {
		if len(l.Serials) == 0 {
			continue
		}
		var other struct{ Code, Number string }
		err := sqlx.GetContext(ctx, q, &other, `
			SELECT u.code, n.number FROM serials u JOIN return_units x ON x.serial_id = u.id JOIN inbound_lines b ON b.id = x.line_id
			  JOIN inbound_orders n ON n.id = b.order_id JOIN return_lines r ON r.line_id = b.id
			 WHERE u.item_id = $1 AND u.code = ANY($2) AND (NOT b.closed OR r.kept > 0) LIMIT 1`, l.sold.ItemID, l.Serials)
		if err == nil {
			return refusal.New(refusal.WrongSerial, fmt.Sprintf("lines[%d].serials", i), "Serial %s of %s is on %s already.", other.Code,
				l.sold.SKU, other.Number).Of(refusal.Conflict)
		}
		if !errors.Is(err, sql.ErrNoRows) {
			return fmt.Errorf("looking for units on returns: %w", err)
		}
	}
	return nil
}

func knownReason(reasons []Reason, id int32) bool {
	return slices.ContainsFunc(reasons, func(r Reason) bool { return r.ID == id })
}
