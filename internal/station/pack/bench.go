package pack

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/cartonization"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"
	"lanternrow/internal/resolving"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// closed is a carton that is to be closed; off is by how much its weight is off, when it
// is opened again for that instead.
type closed struct {
	cartons.Carton
	off *decimal.Decimal
}

// settings are what a site asks of its bench.
type settings struct {
	BenchCheck  bool            `db:"bench_check"`
	VariancePct decimal.Decimal `db:"variance_pct"`
	VarianceKg  decimal.Decimal `db:"variance_kg"`
}

func readSettings(ctx context.Context, q sqlx.QueryerContext, site int32) (s settings, err error) {
	if err = sqlx.GetContext(ctx, q, &s, `
		SELECT bench_check, variance_pct, variance_kg FROM sites WHERE id = $1`, site); err != nil {
		return s, fmt.Errorf("reading the bench's settings: %w", err)
	}
	return s, nil
}

// allowance is what a carton may be off what was expected, in kilograms: a share of it,
// or so many grams where that is less.
func (s settings) allowance(expected decimal.Decimal) decimal.Decimal {
	return decimal.Max(expected.Mul(s.VariancePct).Div(decimal.NewFromInt(100)).Round(3), s.VarianceKg)
}

// sized gives the carton a size, which its own weight is calculated by.
func sized(ctx context.Context, q sqlx.QueryerContext, c closed, code string) (closed, error) {
	if code == "" || code == c.Size {
		return c, nil
	}
	var tare struct{ Now, Before decimal.Decimal }
	err := sqlx.GetContext(ctx, q, &tare, `
		SELECT tare_kg AS now, coalesce((SELECT tare_kg FROM carton_sizes WHERE code = $2), 0) AS before
		  FROM carton_sizes WHERE code = $1`, code, c.Size)
	if err != nil {
		return c, documents.Found(err, "carton size", code)
	}
	c.Size, c.Expected = code, c.Expected.Add(tare.Now).Sub(tare.Before)
	return c, nil
}

// unchecked words what was not scanned yet.
func unchecked(c closed) string {
	var out []string
	for _, x := range c.Contents {
		if left := x.Quantity.Sub(x.Checked); left.IsPositive() {
			out = append(out, fmt.Sprintf("%s of %s", left, x.SKU))
		}
	}
	return strings.Join(out, ", ")
}

// opensAgain is what becomes of a carton whose weight is off: it is looked through first.
func (c *closed) opensAgain(off, allowed decimal.Decimal) *ledger.Plan {
	c.off = &off
	sign := ""
	if off.IsPositive() {
		sign = "+"
	}
	return &ledger.Plan{
		Moves: []ledger.MoveView{}, Notes: []string{}, Changes: []ledger.Change{{What: "Weight",
			Before: c.Expected.String() + " kg expected", After: fmt.Sprintf("%s kg, differs by %s%s kg", c.WeightKg,
				sign, off)}},
		Warnings: []string{fmt.Sprintf("It differs by %s kg, and %s kg is allowed. It stays open, and each thing "+
			"in it is scanned before it is closed.", off.Abs(), allowed)},
		Button: fmt.Sprintf("Open carton …%s again", c.SSCC[14:]),
	}
}

// again opens a carton again whose weight is off.
func again(ctx context.Context, tx *command.Tx, c closed) (cartons.Carton, error) {
	if _, err := tx.ExecContext(ctx, `
		UPDATE carton_work SET variance_kg = $2, weight_kg = $3, size_code = $4, checked_by = NULL, changed_at = $5
		 WHERE carton_id = $1`, c.ID, c.off, c.WeightKg, c.Size, tx.Now); err != nil {
		return c.Carton, fmt.Errorf("opening a carton again: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `UPDATE carton_contents SET checked = 0 WHERE carton_id = $1`, c.ID); err != nil {
		return c.Carton, fmt.Errorf("opening a carton again: %w", err)
	}
	tx.NotifySite(c.SiteID, "pack", "orders", "row")
	return cartons.ByID(ctx, tx, c.ID)
}

// OpenAgain brings a closed carton back to the bench.
func OpenAgain(ctx context.Context, tx *command.Tx, id int64) (cartons.Carton, error) {
	if err := hold(ctx, tx, id); err != nil {
		return cartons.Carton{}, err
	}
	c, err := cartons.ByID(ctx, tx, id)
	if err != nil {
		return c, err
	}
	if c.State != states.CartonPacked {
		return c, refusal.New(refusal.CartonState, "",
			"Carton …%s is %s. Only one that is packed and on no vehicle can be opened again.", c.SSCC[14:], states.Label(c.State)).Of(refusal.Conflict)
	}
	if err := reservation.OpenAgain(ctx, tx, id, c.SiteID, c.Order); err != nil {
		return c, err
	}
	tx.NotifySite(c.SiteID, ledger.Topics("pack", "dispatch", "row")...)
	return cartons.ByID(ctx, tx, id)
}

func hold(ctx context.Context, tx *command.Tx, id int64) error {
	return documents.Hold(ctx, tx, documents.Own(documents.Carton, id))
}

// Check compares what is scanned at the bench with what should be in the carton. What
// should not, and one too many, is refused.
func Check(ctx context.Context, tx *command.Tx, id int64, scan, text string) (cartons.Carton, error) {
	if err := hold(ctx, tx, id); err != nil {
		return cartons.Carton{}, err
	}
	c, err := cartons.ByID(ctx, tx, id)
	if err != nil {
		return c, err
	}
	if c.State != states.CartonAtBench {
		return c, refusal.New(refusal.CartonState, "", "Carton …%s is %s, not at the bench.", c.SSCC[14:],
			states.Label(c.State)).Of(refusal.Conflict)
	}
	quantity := decimal.NewFromInt(1)
	if text != "" {
		if quantity, err = measure.Parse("quantity", text, measure.Unit{}); err != nil {
			return c, err
		}
	}
	x, serial, err := match(ctx, tx, c, scan)
	if err != nil {
		return c, err
	}
	if serial != "" {
		quantity = decimal.NewFromInt(1)
	}
	result, err := tx.ExecContext(ctx, `
		UPDATE carton_contents SET checked = checked + $5 WHERE carton_id = $1 AND line_id = $2
		   AND lot_id IS NOT DISTINCT FROM $3
		   AND ($4 = '' OR serial_id = (SELECT id FROM serials WHERE item_id = carton_contents.item_id AND code = $4))
		   AND checked + $5 <= quantity`, id, x.LineID, x.LotID, serial, quantity)
	if err != nil {
		return c, fmt.Errorf("noting what is scanned: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return c, refusal.New(refusal.OneTooMany, "scan",
			"%s of %s belong into carton …%s, and %s were scanned already. Set what is over aside and ask the lead.", x.Quantity, x.SKU, c.SSCC[14:], x.Checked).Of(refusal.Conflict).With("wanted", x.Quantity)
	}
	if c, err = cartons.ByID(ctx, tx, id); err == nil && c.Whole() {
		if _, err := tx.ExecContext(ctx, `
			UPDATE carton_work SET checked_by = $2 WHERE carton_id = $1`, id, tx.Person.ID); err != nil {
			return c, fmt.Errorf("noting who looked through a carton: %w", err)
		}
		c.CheckedBy = tx.Person.Name
	}
	tx.NotifySite(c.SiteID, "pack")
	return c, err
}

// match finds the content that a scan is of: an item, a lot of it, or a unit by its
// serial.
func match(
	ctx context.Context, tx *command.Tx, c cartons.Carton, scan string,
) (x cartons.Content, serial string, err error) {
	code := strings.TrimSpace(scan)
	for _, x := range c.Contents {
		for _, s := range x.Serials {
			if strings.EqualFold(s, code) {
				return x, s, nil
			}
		}
	}
	read, err := resolving.Read(ctx, tx, c.SiteID, scan, tx.Now)
	if err != nil {
		return x, "", refusal.At(err, "scan")
	}
	if read.Goods == nil {
		return x, "", refusal.New(refusal.NotInCarton, "scan",
			"You scanned %s, which is no item. Scan what is in carton …%s.", scan, c.SSCC[14:]).Of(refusal.Conflict)
	}
	g := read.Goods
	for pass := range 2 {
		for _, x := range c.Contents {
			if x.ItemID != g.Item.ID || g.Lot != "" && (x.Lot == nil || *x.Lot != g.Lot) || pass == 0 &&
				!x.Checked.LessThan(x.Quantity) {
				continue
			}
			if len(x.Serials) > 0 {
				for _, s := range x.Serials {
					if s == g.Serial {
						return x, s, nil
					}
				}
				return x, "", refusal.New(refusal.SerialMissing, "scan",
					"%s is known unit by unit. Scan the serial of each: %s.", x.SKU, strings.Join(x.Serials,
						", ")).Of(refusal.Conflict)
			}
			return x, "", nil
		}
	}
	what := g.Item.SKU
	if g.Lot != "" {
		what += " lot " + g.Lot
	}
	return x, "", refusal.New(refusal.NotInCarton, "scan",
		"You scanned %s. It does not belong into carton …%s, for %s. Set it aside and ask the lead.", what, c.SSCC[14:], c.Order).Of(refusal.Conflict).With("scanned", what)
}

// countsIn is how many base units of which items are in a carton.
func countsIn(c cartons.Carton) map[int32]decimal.Decimal {
	counts := map[int32]decimal.Decimal{}
	for _, x := range c.Contents {
		counts[x.ItemID] = counts[x.ItemID].Add(x.Quantity)
	}
	return counts
}

// proposeForOrder proposes cartons for what an order has not in cartons yet.
func proposeForOrder(ctx context.Context, q sqlx.QueryerContext, order int64) (cartonization.Answer, error) {
	var rows []struct {
		Item int32 `db:"item_id"`
		Due  decimal.Decimal
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT item_id, sum(due) AS due FROM outbound_lines WHERE order_id = $1 AND due > 0 GROUP BY 1`,
		order); err != nil {
		return cartonization.Answer{}, fmt.Errorf("reading what an order wants: %w", err)
	}
	counts := map[int32]decimal.Decimal{}
	for _, r := range rows {
		counts[r.Item] = r.Due
	}
	return cartons.Propose(ctx, q, counts)
}
