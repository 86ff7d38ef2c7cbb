package receiving

import (
	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// A Match holds one line of a supplier's invoice against what was ordered and what came:
// the three ways an invoice is matched before it is paid (common practice, no source).
type Match struct {
	SKU string
	// Ordered, Received and Invoiced are so far; Price is what was agreed, for a unit.
	Ordered, Received, Invoiced, Price decimal.Decimal
	// Quantity and InvoicePrice are what the invoice says.
	Quantity, InvoicePrice decimal.Decimal
	// PriceAllowance is by how many per cent the invoice's price may be above.
	PriceAllowance decimal.Decimal
}

// MayInvoice is how much of what came is not invoiced yet.
func (m Match) MayInvoice() decimal.Decimal {
	return decimal.Max(m.Received.Sub(m.Invoiced), decimal.Zero)
}

// Check stops a line that invoices more than came, or at a price above what was agreed by
// more than the allowance.
func (m Match) Check(field string) error {
	if err := m.CheckQuantity(field); err != nil {
		return err
	}
	return m.CheckPrice(field)
}

// Early tells whether a line invoices no more than was ordered, of which part is still to come.
func (m Match) Early() bool {
	return m.Quantity.GreaterThan(m.MayInvoice()) && !m.Quantity.GreaterThan(m.Ordered.Sub(m.Invoiced))
}

// CheckQuantity stops a line that invoices more than came.
func (m Match) CheckQuantity(field string) error {
	if !m.Quantity.GreaterThan(m.MayInvoice()) {
		return nil
	}
	return refusal.New(refusal.InvoiceOverReceived, field+".quantity",
		"%s: the invoice is for %s, and at most %s can be invoiced (%s ordered, %s received, %s invoiced before). "+
			"Ask the supplier for another invoice, or receive what is missing.",
		m.SKU, m.Quantity, m.MayInvoice(), m.Ordered, m.Received, m.Invoiced).With("most", m.MayInvoice())
}

// CheckPrice stops a line at a price above what was agreed by more than the allowance.
// A lead may let it pass.
func (m Match) CheckPrice(field string) error {
	most := m.Price.Mul(hundred.Add(m.PriceAllowance)).Div(hundred)
	if !m.InvoicePrice.GreaterThan(most) {
		return nil
	}
	return refusal.New(refusal.InvoicePrice, field+".price",
		"%s: the invoice asks %s each, and %s was agreed; at most %s passes (%s %% above). Ask the supplier for "+
			"another invoice, or have a lead let it pass and say why.",
		m.SKU, m.InvoicePrice, m.Price, most.Truncate(4), m.PriceAllowance).With("most", most.Truncate(4))
}
