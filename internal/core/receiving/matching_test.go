package receiving

import (
	"math/rand/v2"
	"strings"
	"testing"

	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

func TestAInvoiceIsMatchedThreeWays(t *testing.T) {
	for name, c := range map[string]struct {
		received, invoiced, quantity, price string
		code, says                          string
	}{
		"what came":      {"96", "0", "96", "18.75", "", ""},
		"part of it":     {"96", "0", "40", "18.75", "", ""},
		"the rest of it": {"96", "40", "56", "18.75", "", ""},
		"what was ordered, not came": {"96", "0", "100", "18.75", "invoice_over_received",
			"at most 96 can be invoiced"},
		"invoiced before": {"96", "90", "7", "18.75", "invoice_over_received",
			"at most 6 can be invoiced (100 ordered, 96 received, 90 invoiced before)"},
		"nothing came":       {"0", "0", "1", "18.75", "invoice_over_received", "at most 0"},
		"cheaper":            {"96", "0", "96", "15", "", ""},
		"dearer, within 2 %": {"96", "0", "96", "19.125", "", ""},
		"dearer than 2 %": {"96", "0", "96", "19.1251", "invoice_price",
			"18.75 was agreed; at most 19.125 passes"},
	} {
		m := Match{SKU: "HC-050", Ordered: dec("100"), Received: dec(c.received), Invoiced: dec(c.invoiced),
			Price: dec("18.75"), Quantity: dec(c.quantity), InvoicePrice: dec(c.price), PriceAllowance: dec("2")}
		r := refusal.From(m.Check("lines[0]"))
		if (r == nil) != (c.code == "") || r != nil &&
			(string(r.Code) != c.code || !strings.Contains(r.Sentence, c.says)) {
			t.Errorf("%s: %+v, want %s", name, r, c.code)
		}
	}
}

// TestInvoicesNeverComeToMoreThanCame lets invoices of any size arrive in any order.
func TestInvoicesNeverComeToMoreThanCame(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 2))
	for range 2000 {
		received, invoiced, passed := decimal.NewFromInt(r.Int64N(50)), decimal.Zero, 0
		for range 12 {
			m := Match{Received: received, Invoiced: invoiced, Quantity: decimal.NewFromInt(1 + r.Int64N(20)),
				Price: dec("2"), InvoicePrice: dec("2")}
			if m.Check("l") == nil {
				invoiced = invoiced.Add(m.Quantity)
				passed++
			} else if invoiced.Add(m.Quantity).LessThanOrEqual(received) {
				t.Fatalf("%+v is stopped", m)
			}
		}
		if invoiced.GreaterThan(received) {
			t.Fatalf("%s of %s are invoiced", invoiced, received)
		}
	}
}

// TestAnInvoiceThatWaitsIsMatchedByItsGoods draws orders, what came and what was invoiced: an
// invoice waits just where it asks more than came and no more than was ordered, and once all that
// was ordered is here it passes.
func TestAnInvoiceThatWaitsIsMatchedByItsGoods(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 11))
	waited := 0
	for range 5000 {
		ordered, received := r.Int64N(40), r.Int64N(50)
		invoiced := r.Int64N(received + 1)
		m := Match{Ordered: decimal.NewFromInt(ordered), Received: decimal.NewFromInt(received),
			Invoiced: decimal.NewFromInt(invoiced), Quantity: decimal.NewFromInt(1 + r.Int64N(40)), Price: dec("2"),
			InvoicePrice: dec("2")}
		asked := m.Quantity.IntPart()
		waits := asked > received-invoiced && asked <= ordered-invoiced
		if m.Early() != waits {
			t.Fatalf("%d ordered, %d received, %d invoiced, asked for %d: waits %v", ordered, received, invoiced, asked, m.Early())
		}
		if waits && m.CheckQuantity("l") == nil {
			t.Fatalf("%d ordered, %d received, %d invoiced: %d pass that have not come", ordered, received, invoiced, asked)
		}
		if !waits {
			continue
		}
		waited++
		m.Received = m.Ordered
		if err := m.CheckQuantity("l"); err != nil || m.Early() {
			t.Fatalf("all of %d came, %d invoiced, and %d do not pass: %v", ordered, invoiced, asked, err)
		}
	}
	if waited < 500 {
		t.Errorf("only %d waited", waited)
	}
}
