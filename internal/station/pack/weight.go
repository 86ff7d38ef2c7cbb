package pack

import (
	"context"
	"fmt"
	"sort"
	"strings"

	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// withinSize refuses a carton that weighs more than its size takes, and says what to move to
// another. weight is in kilograms, with the carton itself.
func withinSize(ctx context.Context, q sqlx.QueryerContext, c closed, weight decimal.Decimal) error {
	if c.Size == "" {
		return nil
	}
	var size struct {
		Most *decimal.Decimal `db:"max_kg"`
		Tare decimal.Decimal  `db:"tare_kg"`
	}
	err := sqlx.GetContext(ctx, q, &size, `SELECT max_kg, tare_kg FROM carton_sizes WHERE code = $1`, c.Size)
	if err != nil {
		return fmt.Errorf("reading a carton size: %w", err)
	}
	if size.Most == nil || !weight.Sub(size.Tare).GreaterThan(*size.Most) {
		return nil
	}
	over := weight.Sub(size.Tare).Sub(*size.Most)
	units, err := unitWeights(ctx, q, c)
	if err != nil {
		return err
	}
	return refusal.New(refusal.TooHeavy, "size",
		"Carton …%s holds %s kg, and size %s takes %s. Move %s to another carton, or choose a size that takes it.",
		c.SSCC[14:], weight.Sub(size.Tare), c.Size, size.Most, lighten(over, c, units)).Of(refusal.Conflict).
		With("over_kg", over)
}

func unitWeights(ctx context.Context, q sqlx.QueryerContext, c closed) (map[int32]decimal.Decimal, error) {
	ids := make([]int32, len(c.Contents))
	for i, x := range c.Contents {
		ids[i] = x.ItemID
	}
	var rows []struct {
		ID int32
		Kg decimal.Decimal
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT id, weight_kg AS kg FROM items WHERE id = ANY($1)`, ids); err != nil {
		return nil, fmt.Errorf("reading what items weigh: %w", err)
	}
	out := map[int32]decimal.Decimal{}
	for _, r := range rows {
		out[r.ID] = r.Kg
	}
	return out, nil
}

// lighten says what to take out of a carton, so that it is lighter by so much: the fewest
// units, the heaviest first.
func lighten(over decimal.Decimal, c closed, units map[int32]decimal.Decimal) string {
	contents := append(c.Contents[:0:0], c.Contents...)
	sort.SliceStable(contents, func(i, j int) bool {
		return units[contents[i].ItemID].GreaterThan(units[contents[j].ItemID])
	})
	var out []string
	for _, x := range contents {
		kg := units[x.ItemID]
		if !over.IsPositive() || !kg.IsPositive() {
			break
		}
		n := decimal.Min(over.Div(kg).Ceil(), x.Quantity)
		over = over.Sub(n.Mul(kg))
		out = append(out, fmt.Sprintf("%s of %s (%s kg)", n, x.SKU, n.Mul(kg)))
	}
	if len(out) == 0 {
		return over.String() + " kg"
	}
	return strings.Join(out, " and ")
}
