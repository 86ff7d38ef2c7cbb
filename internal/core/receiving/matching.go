package receiving

import (
	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// A Match holds one line of a supplier's bill against what was ordered and what came:
// the three ways a bill is matched before it is paid (common practice, no source).
type Match struct {
	SKU string
	// Ordered, Received and Billed are so far; Price is what was agreed, for a unit.
	Ordered, Received, Billed, Price decimal.Decimal
	// Quantity and BillPrice are what the bill says.
	Quantity, BillPrice decimal.Decimal
	// PriceAllowance is by how many per cent the bill's price may be above.
	PriceAllowance decimal.Decimal
}

// MayBill is how much of what came is not billed yet.
func (m Match) MayBill() decimal.Decimal {
	return decimal.Max(m.Received.Sub(m.Billed), decimal.Zero)
}

// Check stops a line that bills more than came, or at a price above what was agreed by
// more than the allowance.
func (m Match) Check(field string) error {
	if err := m.CheckQuantity(field); err != nil {
		return err
	}
	return m.CheckPrice(field)
}

// CheckQuantity stops a line that bills more than came.
func (m Match) CheckQuantity(field string) error {
	if !m.Quantity.GreaterThan(m.MayBill()) {
		return nil
	}
	return refusal.New("bill_over_received", field+".quantity", "%s: the bill is for %s, and at most %s can be billed (%s ordered, %s received, %s billed before). Ask the supplier for another bill, or book in what is missing.",
		m.SKU, m.Quantity, m.MayBill(), m.Ordered, m.Received, m.Billed).With("most", m.MayBill())
}

// CheckPrice stops a line at a price above what was agreed by more than the allowance.
// A lead may let it pass.
func (m Match) CheckPrice(field string) error {
	most := m.Price.Mul(hundred.Add(m.PriceAllowance)).Div(hundred)
	if !m.BillPrice.GreaterThan(most) {
		return nil
	}
	return refusal.New("bill_price", field+".price", "%s: the bill asks %s each, and %s was agreed; at most %s passes (%s %% above). Ask the supplier for another bill, or have a lead let it pass and say why.",
		m.SKU, m.BillPrice, m.Price, most.Truncate(4), m.PriceAllowance).With("most", most.Truncate(4))
}
