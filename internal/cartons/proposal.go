package cartons

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/core/cartonization"
	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Sizes reads the kinds of cartons there are.
func Sizes(ctx context.Context, q sqlx.QueryerContext) ([]cartonization.Size, error) {
	var rows []struct {
		Code          string
		A, B, C       float64
		MaxKg, TareKg float64
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT code, sides_cm[1]::float8 AS a, sides_cm[2]::float8 AS b, sides_cm[3]::float8 AS c,
		       coalesce(max_kg, 0)::float8 AS maxkg, tare_kg::float8 AS tarekg FROM carton_sizes ORDER BY code`)
	if err != nil {
		return nil, fmt.Errorf("reading carton sizes: %w", err)
	}
	out := make([]cartonization.Size, len(rows))
	for i, r := range rows {
		out[i] = cartonization.Size{Code: r.Code, SidesCm: [3]float64{r.A, r.B, r.C}, MaxKg: r.MaxKg, TareKg: r.TareKg}
	}
	return out, nil
}

// Propose asks the rules which cartons hold so many base units of these items, by id.
func Propose(
	ctx context.Context, q sqlx.QueryerContext, counts map[int32]decimal.Decimal,
) (cartonization.Answer, error) {
	sizes, err := Sizes(ctx, q)
	if err != nil {
		return cartonization.Answer{}, err
	}
	things, err := things(ctx, q, counts)
	if err != nil {
		return cartonization.Answer{}, err
	}
	return cartonization.Propose(things, sizes)
}

// Holding are the sizes of which one carton holds so many base units of these items, the
// smallest first.
func Holding(
	ctx context.Context, q sqlx.QueryerContext, counts map[int32]decimal.Decimal,
) ([]cartonization.Size, error) {
	sizes, err := Sizes(ctx, q)
	if err != nil {
		return nil, err
	}
	things, err := things(ctx, q, counts)
	if err != nil {
		return nil, err
	}
	out := []cartonization.Size{}
	for _, s := range sizes {
		answer, err := cartonization.Propose(things, []cartonization.Size{s})
		if refusal.From(err) != nil {
			// Something in it is too large for the size.
			continue
		}
		if err != nil {
			return nil, err
		}
		if len(answer.Cartons) <= 1 {
			out = append(out, s)
		}
	}
	slices.SortStableFunc(out, func(a, b cartonization.Size) int { return cmp.Compare(a.VolumeL(), b.VolumeL()) })
	return out, nil
}

// things are so many base units of items as the rules see them.
func things(
	ctx context.Context, q sqlx.QueryerContext, counts map[int32]decimal.Decimal,
) ([]cartonization.Thing, error) {
	ids := make([]int32, 0, len(counts))
	for id := range counts {
		ids = append(ids, id)
	}
	var rows []struct {
		ID       int32
		SKU      string
		Whole    bool
		WeightKg float64 `db:"weight_kg"`
		VolumeL  float64 `db:"volume_l"`
		A, B, C  float64
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT i.id, i.sku, i.whole, i.weight_kg::float8 AS weight_kg, i.volume_l::float8 AS volume_l,
		       coalesce(p.sides_cm[1], 0)::float8 AS a, coalesce(p.sides_cm[2], 0)::float8 AS b,
		       coalesce(p.sides_cm[3], 0)::float8 AS c
		  FROM items i LEFT JOIN packs p ON p.item_id = i.id AND p.holds = 1 WHERE i.id = ANY($1) ORDER BY i.sku`, ids)
	if err != nil {
		return nil, fmt.Errorf("reading how large items are: %w", err)
	}
	var things []cartonization.Thing
	for _, r := range rows {
		t := cartonization.Thing{Key: r.SKU, Count: int(counts[r.ID].IntPart()), WeightKg: r.WeightKg,
			VolumeL: r.VolumeL, SidesCm: [3]float64{r.A, r.B, r.C}}
		if !r.Whole {
			// What is measured goes in one piece.
			n := counts[r.ID].InexactFloat64()
			t.Count, t.WeightKg, t.VolumeL, t.SidesCm = 1, n*r.WeightKg, n*r.VolumeL, [3]float64{}
		}
		things = append(things, t)
	}
	return things, nil
}
