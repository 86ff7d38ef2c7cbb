package application_test

import (
	"context"
	"fmt"
	"testing"

	"lanternrow/internal/ledger"
	"lanternrow/internal/test/world"
)

// agreed changes the prices of orders' lines, as nobody can who is not the owner.
func agreed(lines, price string) string {
	return fmt.Sprintf("ALTER TABLE %s DISABLE TRIGGER renamed; UPDATE %[1]s SET price = %s", lines, price)
}

// TestTheMoneyOfDocumentsIsSealed buys, sells and invoices both ways, and then has somebody who may rewrite all of the
// database change what an order, a delivery or an invoice says: each is found by its number, and once it is as it was all is whole.
func TestTheMoneyOfDocumentsIsSealed(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	allow(t, h)
	lead := world.SignOn(t, base, "lead")
	order, arrival := buy(t, lead, "100", "10")
	line := id(arrival, "lines", 0, "id")
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")),
		object{"version": 1, "lines": []object{{"line_id": line, "quantity": "100"}}}).JSON()
	lead.Post(fmt.Sprintf("/purchase-orders/%d/invoices", id(order, "id")), object{"number": "F-77", "invoiced_on": day(0),
		"lines": []object{{"line_id": line, "quantity": "90", "price": "18.80"}}}).JSON()
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	sale := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon, "release": true,
		"lines": []object{{"item_id": world.Clamp, "quantity": "2", "price": "20"}}}).JSON()
	packedFor(lead, sale)
	lead.Post("/shipments", object{"order_id": sale["id"], "invoice": "shipped"}).JSON()
	h.Whole(t)
	for table, change := range map[string][2]string{
		"shipments":         {"UPDATE shipment_lines SET quantity = quantity + 1", "UPDATE shipment_lines SET quantity = quantity - 1"},
		"invoices":          {"UPDATE invoice_lines SET price = price - 1", "UPDATE invoice_lines SET price = price + 1"},
		"supplier_invoices": {"UPDATE supplier_invoice_lines SET price = price * 2", "UPDATE supplier_invoice_lines SET price = price / 2"},
		"recosts":           {"UPDATE recosts SET note = note || '.'", "UPDATE recosts SET note = left(note, -1)"},
		"sales_lines":       {agreed("sales_lines", "price + 1"), agreed("sales_lines", "price - 1")},
		"purchase_lines":    {agreed("purchase_lines", "price + 1"), agreed("purchase_lines", "price - 1")},
		"purchase_orders": {"ALTER TABLE purchase_orders DISABLE TRIGGER renamed; UPDATE purchase_orders SET freight = freight + 5",
			"UPDATE purchase_orders SET freight = freight - 5"},
	} {
		if n, _ := h.Owner.MustExec(change[0]).RowsAffected(); n == 0 {
			t.Errorf("there are no %s", table)
		}
		if r, err := ledger.Verify(context.Background(), h.Owner); err != nil || r.First == nil || r.First.Table != table {
			t.Errorf("of changed %s it finds %+v: %v", table, r.First, err)
		}
		h.Owner.MustExec(change[1])
	}
	h.Whole(t)
}
