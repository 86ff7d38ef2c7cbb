package pricing

import (
	"testing"

	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

func TestWhereAPriceComesFrom(t *testing.T) {
	d := decimal.RequireFromString
	list := d("24.00")
	agreed := []Agreement{{"2027-01-01", d("20")}, {"2027-06-01", d("21.5")}, {"2026-01-01", d("19")}}
	for name, c := range map[string]struct {
		terms  Terms
		day    string
		amount string
		source Source
		why    string
	}{
		"the sales price": {Terms{List: &list}, "2027-03-01", "24", List, "sales price"},
		"less a discount": {Terms{List: &list, Discount: d("7.5")}, "2027-03-01", "22.2",
			Discount, "24 less 7.5 %"},
		"to the hundredth": {Terms{List: &list, Discount: d("3.33")}, "2027-03-01", "23.2",
			Discount, "24 less 3.33 %"},
		"what was agreed, whatever the discount": {Terms{List: &list, Discount: d("50"), Agreed: agreed},
			"2027-03-01", "20", Agreed, "agreed from 2027-01-01"},
		"from its very day on": {Terms{List: &list, Agreed: agreed}, "2027-06-01", "21.5", Agreed,
			"agreed from 2027-06-01"},
		"not before it": {Terms{List: &list, Agreed: agreed[:1]}, "2026-12-31", "24", List,
			"sales price"},
		"agreed for an item without a sales price": {Terms{Agreed: agreed}, "2026-02-01", "19", Agreed,
			"agreed from 2026-01-01"},
	} {
		p, err := c.terms.On("price", c.day)
		if err != nil || !p.Amount.Equal(d(c.amount)) || p.Source != c.source || p.Why != c.why {
			t.Errorf("%s: %+v, %v", name, p, err)
		}
		if same := c.terms.Entered(d(c.amount), c.day); same != p && !same.Amount.Equal(p.Amount) {
			t.Errorf("%s, entered: %+v", name, same)
		}
		if other := c.terms.Entered(d("1.11"), c.day); other.Source != Typed {
			t.Errorf("%s, another entered: %+v", name, other)
		}
	}
	if _, err := (Terms{SKU: "HC-050"}).On("lines[0].price", "2027-03-01"); refusal.From(err) == nil ||
		refusal.From(err).Code != "price_missing" || refusal.From(err).Field != "lines[0].price" {
		t.Errorf("without any price: %v", err)
	}
}
