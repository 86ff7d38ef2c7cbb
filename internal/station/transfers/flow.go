package transfers

import (
	"context"
	"fmt"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/slotting"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// plan checks a move; the destination's contents are read only when they matter.
func plan(ctx context.Context, q sqlx.QueryerContext, in Transfer, f facts) ([]ledger.Move, error) {
	quantity, err := measure.Parse("quantity", in.Quantity, measure.Unit{Name: f.Unit, Whole: f.Whole})
	if err != nil {
		return nil, err
	}
	if in.CartonID != nil {
		if _, err := cartons.PalletByID(ctx, q, *in.CartonID); err != nil {
			return nil, err
		}
	}
	if _, err := in.check(ctx, q, f, quantity, nil); err != nil {
		return nil, err
	}
	return in.moves(ctx, q, f, quantity)
}

// moves are those of a move: one, or one for each unit that is known.
func (in Transfer) moves(ctx context.Context, q sqlx.QueryerContext, f facts, quantity decimal.Decimal) ([]ledger.Move, error) {
	return serials.Spread(ctx, q, "serials", f.Tracking, f.SKU, ledger.Move{Item: in.ItemID, Lot: in.LotID,
		Quantity: quantity, From: in.FromID, FromBox: in.CartonID, To: f.ToID}, in.Serials)
}

// check refuses a destination that goods cannot go to, or that has no room for them beside what lies there and what
// came before in the same step. It returns them as they lie there then.
func (in Transfer) check(
	ctx context.Context, q sqlx.QueryerContext, f facts, quantity decimal.Decimal, before []slotting.Held,
) (slotting.Held, error) {
	held := slotting.Held{Item: f.SKU, Lot: f.Lot, Quantity: quantity}
	if f.ToID == in.FromID {
		return held, refusal.New(refusal.SameLocation, "to",
			"The goods are in %s already. Choose another location.", f.From)
	}
	if f.FromKind == "trolley" {
		return held, refusal.New(refusal.OnTrolley, "from_id",
			"%s are on their way with somebody. They leave the trolley by their own round or walk.", f.From).Of(refusal.Conflict)
	}
	if f.ToKind != "bin" && f.ToKind != "dock" && f.ToKind != "quarantine" && f.ToKind != "damaged" {
		return held, refusal.New(refusal.NotABin, "to",
			"%s is a %s: goods get there by their own step. Choose a bin.", f.To, f.ToKind)
	}
	if f.ToKind != "bin" || !f.Bound {
		return held, nil
	}
	if tx, ok := q.(*command.Tx); ok {
		if err := ledger.LockBins(ctx, tx, []int32{f.ToID}); err != nil {
			return held, err
		}
	}
	bin, goods, err := binOf(ctx, q, in, f)
	if err != nil {
		return held, err
	}
	bin.Holds = append(bin.Holds, before...)
	goods.Quantity, held.WeightKg, held.VolumeL = quantity, goods.WeightKg, goods.VolumeL
	return held, slotting.Check(goods, []slotting.Line{{Field: "quantity", Bin: bin, Quantity: quantity}})
}

func preview(ctx context.Context, q sqlx.QueryerContext, in Transfer) (*ledger.Plan, error) {
	f, err := readFacts(ctx, q, in)
	if err != nil {
		return nil, err
	}
	moves, err := plan(ctx, q, in, f)
	if err != nil {
		return nil, err
	}
	out, err := ledger.Describe(ctx, q, moves)
	if err != nil {
		return nil, err
	}
	out.Button = fmt.Sprintf("Move %s to %s", out.Moves[0].Quantity, f.To)
	return out, nil
}

// Post moves stock within a site.
func Post(ctx context.Context, tx *command.Tx, in Transfer) (Done, error) {
	f, err := readFacts(ctx, tx.Early(), in)
	if err != nil {
		return Done{}, err
	}
	moves, err := plan(ctx, tx, in, f)
	if err != nil {
		return Done{}, err
	}
	if err := ledger.PostLast(ctx, tx, ledger.Head{Kind: posting.Move, Note: in.Note}, moves); err != nil {
		return Done{}, err
	}
	tx.NotifySite(f.SiteID, ledger.Topics("putaway", "row")...)
	return Done{fmt.Sprintf("Moved %s of %s from %s to %s", in.Quantity, f.SKU, f.From, f.To)}, nil
}
