package transfers

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// NewCase is a difference as it is told.
type NewCase struct {
	LineID int64 `json:"line_id,omitempty" doc:"The line of the second half that it is about"`
	// What came besides is on no line: it came with a second half.
	InboundID int64    `json:"inbound_id,omitempty" doc:"The second half that goods came besides, where no line is named"`
	ItemID    int32    `json:"item_id,omitempty" doc:"The item that came besides; that of the line without"`
	Kind      CaseKind `json:"kind" enum:"less,more,other_lot,damaged"`
	Lot       string   `json:"lot,omitempty" maxLength:"60" doc:"The lot that was shipped"`
	CameLot   string   `json:"came_lot,omitempty" maxLength:"60" doc:"The lot that came instead, or besides"`
	Quantity  string   `json:"quantity" maxLength:"40"`
	Serials   []string `json:"serials,omitempty" maxItems:"200" doc:"The units, where they are known one by one"`
	Note      string   `json:"note,omitempty" maxLength:"200"`
}

// line reads the line of a second half that a case is about.
func (in NewCase) line(ctx context.Context, q sqlx.QueryerContext) (o inbound.Order, l inbound.Line, err error) {
	var at struct {
		ID    int64
		Order int64 `db:"order_id"`
	}
	err = sqlx.GetContext(ctx, q, &at, `
		SELECT l.id, l.order_id FROM inbound_lines l JOIN inbound_orders n ON n.id = l.order_id
		 WHERE (l.id = $1 OR $1 = 0 AND n.id = $2) AND n.shipment_id IS NOT NULL ORDER BY l.item_id <> $3, l.line LIMIT 1`,
		in.LineID, in.InboundID, in.ItemID)
	if err = documents.Found(err, "line of a transfer", fmt.Sprint(in.LineID)); err != nil {
		return o, l, err
	}
	if o, err = inbound.Read(ctx, q, at.Order); err != nil {
		return o, l, err
	}
	lines, err := inbound.Lines(ctx, q, at.Order)
	i := slices.IndexFunc(lines, func(l inbound.Line) bool { return l.ID == at.ID })
	if err != nil || i < 0 {
		return o, l, err
	}
	return o, lines[i], nil
}

// read holds what is told against what is in transit.
func (in NewCase) read(ctx context.Context, q sqlx.QueryerContext) (c Case, err error) {
	o, l, err := in.line(ctx, q)
	if err != nil {
		return c, err
	}
	c = Case{LineID: l.ID, ItemID: l.ItemID, SKU: l.SKU, Tracking: l.Tracking, Kind: in.Kind, Serials: in.Serials,
		Transit: o.SourceID, ToSite: o.SiteID, Note: strings.TrimSpace(in.Note)}
	unit := l.BaseUnit()
	if in.ItemID != 0 && in.ItemID != l.ItemID {
		if unit, err = c.besides(ctx, q, in); err != nil {
			return c, err
		}
	}
	if c.Quantity, err = measure.Parse("quantity", in.Quantity, unit); err != nil {
		return c, err
	}
	if err := c.readLots(ctx, q, in); err != nil {
		return c, err
	}
	if c.Tracking == receiving.Serial && !c.Quantity.Equal(decimal.NewFromInt(int64(len(in.Serials)))) {
		return c, refusal.New(refusal.SerialsTotal, "serials", "%d serials are entered for %s of %s. Say which units it is about.",
			len(in.Serials), c.Quantity, c.SKU)
	}
	if in.Kind == More {
		return c, c.strays(ctx, q)
	}
	return c, c.within(ctx, q, l)
}

// besides has the case be about another item than that of its line.
func (c *Case) besides(ctx context.Context, q sqlx.QueryerContext, in NewCase) (measure.Unit, error) {
	if in.Kind != More {
		return measure.Unit{}, refusal.New(refusal.LineUnknown, "item_id",
			"Only what came besides may be another item than the line's. Tell what did not come, and what came besides, each on its own.")
	}
	item, err := catalog.ItemByID(ctx, q, in.ItemID)
	if err != nil {
		return measure.Unit{}, refusal.At(err, "item_id")
	}
	c.ItemID, c.SKU, c.Tracking = item.ID, item.SKU, item.Tracking
	return item.Unit(), nil
}

// strays refuses units that came besides and cannot have: each is known, in none of its places here and on no way.
func (c Case) strays(ctx context.Context, q sqlx.QueryerContext) error {
	if c.Tracking != receiving.Serial {
		return nil
	}
	if err := receiving.CheckSerials("serials", c.SKU, c.Serials); err != nil {
		return err
	}
	_, err := c.strayUnits(ctx, q)
	return err
}

// readLots finds the lots that are named.
func (c *Case) readLots(ctx context.Context, q sqlx.QueryerContext, in NewCase) error {
	find := func(field, code string) (*int64, error) {
		if code == "" {
			return nil, nil
		}
		id, err := catalog.LotByCode(ctx, q, c.ItemID, code)
		return &id, documents.FoundOr(err, refusal.New(refusal.LotUnknown, field, "%s is no lot of %s. Read its label again.", code, c.SKU))
	}
	lots := c.Tracking == receiving.Lot || c.Tracking == receiving.LotExpiry
	switch {
	case lots && in.Lot == "" && in.Kind != More:
		return refusal.New(refusal.LotMissing, "lot", "%s is kept by lots. Say which lot it is about.", c.SKU)
	case in.Kind == OtherLot && (in.CameLot == "" || strings.EqualFold(in.CameLot, in.Lot)):
		return refusal.New(refusal.LotMissing, "came_lot", "Say which lot of %s came instead.", c.SKU)
	}
	var err error
	if c.LotID, err = find("lot", in.Lot); err != nil {
		return err
	}
	c.Lot = in.Lot
	c.CameLotID, err = find("came_lot", in.CameLot)
	return err
}

// within refuses a case over more than is in transit of the line and no case is about yet.
func (c Case) within(ctx context.Context, q sqlx.QueryerContext, l inbound.Line) error {
	var told decimal.Decimal
	if err := sqlx.GetContext(ctx, q, &told, `
		SELECT coalesce(sum(quantity), 0) FROM transfer_cases
		 WHERE line_id = $1 AND outcome IS NULL AND kind <> 'more'`, l.ID); err != nil {
		return fmt.Errorf("reading cases: %w", err)
	}
	left := l.Quantity.Sub(l.Received).Sub(told)
	if l.Closed {
		left = decimal.Zero
	}
	if c.Quantity.GreaterThan(left) {
		return refusal.New(refusal.OverTransit, "quantity",
			"%s of %s are in transit on %s that no case is about, not %s. Take a receipt back first if more came than is there.",
			decimal.Max(left, decimal.Zero), c.SKU, l.Order, c.Quantity).Of(refusal.Conflict).With("left", left)
	}
	_, err := c.outOfTransit(ctx, q, ledger.Move{})
	return err
}

// OpenCase notes a difference. Nothing moves: the goods stay in transit until it is settled.
func OpenCase(ctx context.Context, tx *command.Tx, in NewCase) (Case, error) {
	o, _, err := in.line(ctx, tx)
	if err != nil {
		return Case{}, err
	}
	if err := inbound.Hold(ctx, tx, o.ID); err != nil {
		return Case{}, err
	}
	c, err := in.read(ctx, tx)
	if err != nil {
		return c, err
	}
	var id int64
	err = tx.GetContext(ctx, &id, `
		INSERT INTO transfer_cases (line_id, kind, lot_id, came_lot, quantity, serials, note, opened_by, opened_at, item_id)
		VALUES ($1, $2, $3, $4, $5, $6::text[], $7, $8, $9, $10) RETURNING id`, c.LineID, c.Kind, c.LotID, c.CameLotID, c.Quantity,
		append([]string{}, in.Serials...), c.Note, tx.Person.ID, tx.Now, c.ItemID)
	if err != nil {
		return c, fmt.Errorf("opening a case: %w", err)
	}
	if c, err = readCase(ctx, tx, id); err != nil {
		return c, err
	}
	c.tell(tx)
	return c, nil
}
