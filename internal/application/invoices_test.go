package application_test

import (
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// TestShipmentsStandOnOneInvoiceWhereACustomerWantsIt invoices three shipments, each of 0.13 with
// 19 % of tax: one by one they come to 0.15 each, and on one invoice, whose tax is calculated once
// (EN 16931, BR-CO-17, from memory), to 0.46.
func TestShipmentsStandOnOneInvoiceWhereACustomerWantsIt(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	if _, err := h.Owner.Exec(`
		UPDATE items SET sales_price = 0.13, tax_pct = 19 WHERE id = $1`, world.Clamp); err != nil {
		t.Fatal(err)
	}
	var shipments []any
	var numbers []string
	for range 3 {
		o := sellNow(lead, world.Clamp, "1")
		packedFor(lead, o)
		d := lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
		shipments, numbers = append(shipments, d["id"]), append(numbers, d["number"].(string))
	}
	all := object{"shipment_ids": shipments}
	apart := lead.Post("/invoices/preview", all).JSON()
	if apart["button"] != "Make 3 invoices, 0.45" || len(apart["notes"].([]any)) != 0 {
		t.Fatalf("apart they would be %v", apart)
	}
	lead.Post("/catalog/customers/import", object{"site_id": world.Site, "rows": []object{{"code": "CUS",
		"together": "yes"}}}).JSON()
	look := lead.Post("/invoices/preview", all).JSON()
	if look["button"] != "Make 1 invoice, 0.46" || !strings.Contains(fmt.Sprint(look["notes"]),
		strings.Join(numbers, ", ")+", over 0.46") {
		t.Fatalf("together it would be %v", look)
	}
	made := lead.Post("/invoices", all).JSONs()
	if len(made) != 1 || made[0]["total"] != "0.46" || made[0]["shipment"] != strings.Join(numbers, " ") ||
		len(made[0]["lines"].([]any)) != 3 {
		t.Fatalf("made %v", made)
	}
	if text := paperText(t, lead, fmt.Sprintf("/invoices/%d/invoice.pdf", id(made[0], "id"))); strings.Count(text,
		"Shipped with ") != 3 || !strings.Contains(text, "Tax of 19 % on 0.39: 0.07") {
		t.Errorf("the paper says\n%s", text)
	}
	// One that is invoiced already keeps the others from it, and nothing is made.
	lead.Post("/invoices/preview", all).Refused(409, "nothing_uninvoiced", "shipment_ids", numbers[0])
	lead.Post("/invoices", all).Refused(409, "nothing_uninvoiced", "shipment_ids", numbers[0])
	lead.Post("/invoices", object{"shipment_ids": []any{shipments[0], 999}}).Refused(404, "unknown", "")
	for i, s := range shipments {
		if d := lead.Get(fmt.Sprintf("/shipments/%v", s)).JSON(); d["invoiced"] != made[0]["number"] {
			t.Errorf("%s is said to be invoiced by %v", numbers[i], d["invoiced"])
		}
	}
	// Taken back, all three are asked for anew.
	lead.Post(fmt.Sprintf("/invoices/%d/credit", id(made[0], "id")), object{"reason": "another address"}).JSON()
	if open := lead.Get("/uninvoiced?site=1").Rows(); len(open) != 3 {
		t.Errorf("not invoiced: %v", open)
	}
}
