package invoicing

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// SaleLine is goods that a customer gets instead of others that it sent back.
type SaleLine struct {
	ItemID   int32  `json:"item_id"`
	Quantity string `json:"quantity" maxLength:"40"`
	Price    string `json:"price,omitempty" maxLength:"40" doc:"For a base unit, before tax; the customer's own without"`
}

// A Sale is an order that is made out of another step than taking it.
type Sale struct {
	SiteID, CustomerID int32
	Reference          string
	Lines              []SaleLine
}

// SalePlan is what a sale comes to.
type SalePlan struct {
	Lines []SalePlanLine  `json:"lines" nullable:"false"`
	Net   decimal.Decimal `json:"net" money:"true"`
	Total decimal.Decimal `json:"total" money:"true"`
}

// SalePlanLine is a line of a sale with its price.
type SalePlanLine struct {
	SKU      string          `json:"sku"`
	Quantity decimal.Decimal `json:"quantity"`
	Price    decimal.Decimal `json:"price"`
	Amount   decimal.Decimal `json:"amount" money:"true"`
}

// Sales takes orders: it knows prices by customer, and what may be sold where.
type Sales interface {
	Plan(ctx context.Context, q sqlx.QueryerContext, s Sale, now time.Time) (SalePlan, error)
	// Sell takes the order, released, and returns its id.
	Sell(ctx context.Context, tx *command.Tx, s Sale) (int64, error)
}

var sales Sales

// AttachSales makes known who takes orders. It is called by the sales' own package when that is initialized.
func AttachSales(s Sales) { sales = s }

func (in Returned) sale() Sale {
	return Sale{SiteID: in.SiteID, CustomerID: in.CustomerID, Reference: in.Number, Lines: in.Instead}
}

// sell takes the order over what the customer gets instead.
func (in Returned) sell(ctx context.Context, tx *command.Tx) (int64, error) {
	return sales.Sell(ctx, tx, in.sale())
}

// giveInstead adds what the customer gets instead. Both sides are told in full, the credit note and the invoice that
// follows the order's shipment, since each has its own taxes; the difference is what is paid.
func (p *ReturnPlan) giveInstead(ctx context.Context, q sqlx.QueryerContext, in Returned, now time.Time) error {
	if len(in.Instead) == 0 {
		return nil
	}
	s, err := sales.Plan(ctx, q, in.sale(), now)
	if err != nil {
		return err
	}
	p.Instead, p.Difference = &s, s.Total.Sub(p.Total)
	switch {
	case p.Difference.IsPositive():
		p.Notes = append(p.Notes, fmt.Sprintf("%s pays %s: %s for what it gets, less %s credited.", in.Customer,
			p.Difference.StringFixed(2), s.Total.StringFixed(2), p.Total.StringFixed(2)))
	case p.Difference.IsNegative():
		p.Notes = append(p.Notes, fmt.Sprintf("%s gets %s: %s credited, less %s for what it gets.", in.Customer,
			p.Difference.Neg().StringFixed(2), p.Total.StringFixed(2), s.Total.StringFixed(2)))
	default:
		p.Notes = append(p.Notes, "Nothing is paid: what it gets is worth what is credited.")
	}
	p.Button = fmt.Sprintf("Credit %s, and send what it gets instead for %s", p.Total.StringFixed(2), s.Total.StringFixed(2))
	return nil
}
