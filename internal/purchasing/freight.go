package purchasing

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/carriers"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

// EnterFreight keeps what a carrier asks for an order's freight. It takes the place of what was agreed, or comes on top
// of what other invoices ask; what came is re-costed, and what is still to come costs as much as it comes.
func EnterFreight(ctx context.Context, tx *command.Tx, order int64, in NewFreightInvoice) (Order, error) {
	day, err := in.check(tx.Now)
	if err != nil {
		return Order{}, err
	}
	amount, err := freightAmount("amount", in.Amount)
	if err != nil {
		return Order{}, err
	}
	orders, err := holdInvoiced(ctx, tx, order, nil, "entered freight")
	if err != nil {
		return Order{}, err
	}
	o := orders[0]
	if err := in.may(ctx, tx, o, amount); err != nil {
		return o, err
	}
	if _, err := tx.ExecContext(ctx, `
		WITH o AS (UPDATE purchase_orders SET freight_by = coalesce(nullif($8, ''), freight_by) WHERE order_id = $1)
		INSERT INTO supplier_invoices (order_id, supplier_id, number, invoiced_on, entered_by, entered_at, freight, carrier)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $9)`,
		order, o.SupplierID, in.Number, day, tx.Person.ID, tx.Now, amount, in.By, in.Carrier); err != nil {
		return o, fmt.Errorf("writing freight: %w", err)
	}
	return recost(ctx, tx, orders, "Freight "+in.Number+" of "+in.Carrier)
}

// may refuses freight of an order that is not placed, without a carrier that is known, or entered before, and asks about
// freight that costs more than the goods.
func (in *NewFreightInvoice) may(ctx context.Context, tx *command.Tx, o Order, amount decimal.Decimal) error {
	if o.State == states.Draft {
		return refusal.New(refusal.OrderNotPlaced, "", "%s is not placed yet. Enter what freight costs on the order itself.",
			o.Number).Of(refusal.Conflict)
	}
	if in.Carrier = strings.TrimSpace(in.Carrier); in.Carrier == "" {
		return refusal.New(refusal.CarrierUnknown, "carrier", "Choose who asks for the freight.")
	}
	if err := carriers.Require(ctx, tx, in.Carrier); err != nil {
		return err
	}
	if err := in.unknown(ctx, tx, o, in.Carrier); err != nil {
		return err
	}
	goods := o.Value.Sub(o.Freight)
	return in.Sure.Ask(amount.GreaterThan(goods), refusal.Question(refusal.FreightHigh, "amount",
		"Freight of %s is more than the %s that the goods of %s cost. Is it meant so?", amount.StringFixed(2),
		goods.StringFixed(2), o.Number))
}

// freightAmount reads what a carrier asks, which is more than nothing.
func freightAmount(field, text string) (decimal.Decimal, error) {
	amount, err := wholeHundredths(field, text)
	if err == nil && !amount.IsPositive() {
		err = refusal.New(refusal.PriceNought, field, "Enter what the freight costs: more than 0.")
	}
	return amount, err
}

// wholeHundredths reads what freight costs.
func wholeHundredths(field, text string) (decimal.Decimal, error) {
	amount, err := measure.ParsePrice(field, text)
	if err == nil && !amount.Equal(amount.Truncate(2)) {
		err = refusal.New(refusal.PriceMalformed, field, "%s has more than two decimals. Freight is in whole hundredths.", amount)
	}
	return amount, err
}
