package pack

import (
	"context"
	"fmt"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

// Repacking is goods that are moved from one carton into another.
type Repacking struct {
	To       string `json:"to" minLength:"1" maxLength:"200" doc:"A scan of the other carton's label: one of the same order at the bench, or a blank one"`
	Scan     string `json:"scan" minLength:"1" maxLength:"200" doc:"A scan of the goods: item, label or serial"`
	Quantity string `json:"quantity,omitempty" maxLength:"40" doc:"How many of it; one without"`
}

// Repacked is what became of the two cartons.
type Repacked struct {
	From cartons.Carton `json:"from"`
	To   cartons.Carton `json:"to"`
	// SKU and Quantity say what was moved, in base units.
	SKU      string          `json:"sku"`
	Quantity decimal.Decimal `json:"quantity"`
}

// Repack moves goods from a carton at the bench into another of its order. A carton that is
// left empty is blank again.
func Repack(ctx context.Context, tx *command.Tx, id int64, in Repacking) (out Repacked, err error) {
	from, err := cartons.ByID(ctx, tx, id)
	if err != nil {
		return out, err
	}
	to, err := scannedCarton(ctx, tx, from.SiteID, "to", in.To, tx.Now)
	if err != nil {
		return out, err
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.Carton, id, to)); err != nil {
		return out, err
	}
	if from, err = cartons.ByID(ctx, tx, id); err != nil {
		return out, err
	}
	if out.To, err = cartons.ByID(ctx, tx, to); err != nil {
		return out, err
	}
	if err := mayRepack(from, out.To); err != nil {
		return out, err
	}
	part, err := partOf(ctx, tx, from, in)
	if err != nil {
		return out, err
	}
	if err := repack(ctx, tx, from, out.To, part); err != nil {
		return out, err
	}
	tx.NotifySite(from.SiteID, ledger.Topics("pack", "pick", "row")...)
	out.SKU, out.Quantity = part.SKU, part.quantity
	if out.From, err = cartons.ByID(ctx, tx, id); err != nil {
		return out, err
	}
	out.To, err = cartons.ByID(ctx, tx, to)
	return out, err
}

// mayRepack refuses two cartons between which nothing may be moved.
func mayRepack(from, to cartons.Carton) error {
	switch {
	case from.State != states.CartonAtBench:
		return refusal.New(refusal.CartonState, "", "Carton …%s is %s, not at the bench.", from.SSCC[14:],
			states.Label(from.State)).Of(refusal.Conflict)
	case to.ID == from.ID:
		return refusal.New(refusal.WrongCarton, "to", "That is the carton that it is in. Scan the label of the other.").Of(refusal.Conflict)
	case to.State == states.CartonBlank && to.SiteID == from.SiteID:
	case to.State != states.CartonAtBench || to.SiteID != from.SiteID:
		return refusal.New(refusal.WrongCarton, "to", "Carton …%s is %s. Scan one that is at the bench, or a blank label.",
			to.SSCC[14:], states.Label(to.State)).Of(refusal.Conflict)
	case *to.OrderID != *from.OrderID:
		return refusal.New(refusal.WrongCarton, "to", "Carton …%s is for %s, and these goods are for %s.", to.SSCC[14:],
			to.Order, from.Order).Of(refusal.Conflict).With("scanned", to.Order)
	}
	if err := from.NothingToRestock(); err != nil {
		return err
	}
	return to.NothingToRestock()
}

// part is so much of one content of a carton; serial names the unit, where it is one.
type part struct {
	cartons.Content
	quantity decimal.Decimal
	serial   string
}

func partOf(ctx context.Context, tx *command.Tx, from cartons.Carton, in Repacking) (p part, err error) {
	if p.Content, p.serial, err = match(ctx, tx, from, in.Scan); err != nil {
		return p, err
	}
	p.quantity = decimal.NewFromInt(1)
	if p.serial != "" || in.Quantity == "" {
		return p, nil
	}
	item, err := catalog.ItemByID(ctx, tx, p.ItemID)
	if err != nil {
		return p, err
	}
	if p.quantity, err = measure.Parse("quantity", in.Quantity, item.Unit()); err != nil {
		return p, err
	}
	if p.quantity.GreaterThan(p.Content.Quantity) {
		return p, refusal.New(refusal.NotEnough, "quantity", "Carton …%s holds %s of %s, not %s.", from.SSCC[14:],
			p.Content.Quantity, p.SKU, p.quantity).Of(refusal.Conflict).With("have", p.Content.Quantity)
	}
	return p, nil
}

// repack moves the stock and what the cartons are known to hold. The cartons are held.
func repack(ctx context.Context, tx *command.Tx, from, to cartons.Carton, p part) error {
	if to.State == states.CartonBlank {
		err := documents.Step(ctx, tx, states.Cartons, []int64{to.ID}, states.CartonOpen, "order_id = $4, changed_at = $5",
			from.OrderID, tx.Now)
		if err == nil {
			err = documents.Step(ctx, tx, states.Cartons, []int64{to.ID}, states.CartonAtBench, "changed_at = $4", tx.Now)
		}
		if err != nil {
			return err
		}
	}
	move, err := cartons.PartMove(ctx, tx, from.ID, to.ID, p.ItemID, p.LotID, p.serial, p.quantity)
	if err != nil {
		return err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Pack, Document: from.Order,
		Note: fmt.Sprintf("from carton …%s into …%s", from.SSCC[14:], to.SSCC[14:])}, []ledger.Move{move}); err != nil {
		return err
	}
	if err := cartons.MoveContent(ctx, tx, from.ID, to.ID, p.LineID, move); err != nil {
		return err
	}
	// What it weighs and who looked through it is not known any more.
	if _, err := tx.ExecContext(ctx, `
		UPDATE carton_work SET checked_by = NULL, variance_kg = NULL, changed_at = $2 WHERE carton_id = ANY($1)`,
		[]int64{from.ID, to.ID}, tx.Now); err != nil {
		return fmt.Errorf("noting that cartons changed: %w", err)
	}
	return cartons.BlankIfEmpty(ctx, tx, from.ID)
}
