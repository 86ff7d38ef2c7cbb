package application_test

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"testing"

	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

// TestListsAreSortedPageByPage walks the lists of orders in small pages, by each of their
// columns and both ways: every order is there once, in order, and the first page says how
// many there are and what they come to.
func TestListsAreSortedPageByPage(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Cloth, h.Bin(t, "A-01-1-A"), 24)
	if _, err := h.Owner.Exec(`UPDATE parties SET email = 'house@example.org' WHERE id = $1`, world.Customer); err != nil {
		t.Fatal(err)
	}
	lead.Post("/outbox/tell", object{"site_id": world.Site, "does": "silent"}).JSON()
	for i, location := range []int32{h.Bin(t, "A-01-1-A"), h.Bin(t, "B-01-1-A"), h.Bin(t, "A-02-1-A"), world.Dock} {
		h.Stock(t, world.Clamp, location, int64(9+i%2))
	}
	for i := range 11 {
		if i < 5 {
			o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
				"carrier": fmt.Sprint("Carrier ", i%2), "release": true,
				"lines": []object{{"item_id": world.Cloth, "quantity": fmt.Sprint(1 + i%3), "price": "2"}}}).JSON()
			packedFor(lead, o)
			invoice := []string{"shipped", "later"}[i%2]
			lead.Post("/shipments", object{"order_id": o["id"], "invoice": invoice}).JSON()
		}
		o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
			"reference": fmt.Sprint("PO ", i%3), "sure": []string{"reference_used"}, "release": i%3 == 0, "lines": []object{{"item_id": world.Clamp, "quantity": fmt.Sprint(1 + i%4)}}}).JSON()
		if i < 7 {
			lead.Post(fmt.Sprintf("/sales-lines/%v/reservations", at(o, "lines", 0, "id")), object{"reservations": []object{
				{"location_id": h.Bin(t, "B-01-1-A"), "quantity": "1"}}}).JSON()
			lead.Post(fmt.Sprintf("/sales-orders/%v/mail", o["id"]), nil).JSON()
		}
		lead.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": soon,
			"freight": fmt.Sprint(i % 2), "terms": strings.Repeat("x", i%3),
			"lines": []object{{"item_id": world.Clamp, "quantity": fmt.Sprint(1 + i%4)}}}).JSON()
	}
	for _, list := range []struct {
		path string
		// rows is what the rows are called, and how many there are.
		rows string
		many int
		// columns names what each sort goes by, as the answer has it.
		columns map[string]string
		// sums is how many columns are added up.
		sums int
	}{
		{"/sales-orders/list?site=1&state=open", "orders", 11, map[string]string{"number": "number", "customer": "customer",
			"wanted": "wanted_on", "state": "state", "carrier": "carrier", "reference": "reference", "units": "quantity",
			"reserved": "reserved", "cartons": "picked", "shipped": "shipped", "value": "value"}, 2},
		{"/shipments/list?site=1&q=d-", "shipments", 5, map[string]string{"number": "number", "order": "order",
			"customer": "customer", "carrier": "carrier", "state": "state", "tracking": "tracking", "vehicle": "load",
			"invoiced": "invoiced"}, 0},
		{"/uninvoiced?site=1", "rows", 2, map[string]string{"shipment": "shipment", "shipped": "shipped_at", "order": "order",
			"customer": "customer", "lines": "lines", "value": "value"}, 1},
		{"/reservations?site=1", "rows", 7, map[string]string{"order": "order", "customer": "customer", "wanted": "wanted_on",
			"sku": "sku", "description": "description", "bin": "location", "lot": "lot", "quantity": "quantity",
			"round": "round"}, 0},
		{fmt.Sprintf("/holdings?of=item&id=%d&site=1", world.Clamp), "rows", 4, map[string]string{"location": "location",
			"sku": "sku", "description": "description", "condition": "condition", "quantity": "quantity",
			"reserved": "reserved"}, 2},
		{"/stock/items?site=1&which=here&q=c", "rows", 2, map[string]string{"sku": "sku", "description": "description",
			"unit": "unit", "tracking": "tracking", "home": "home", "bins": "bins", "reorder_point": "reorder_point"}, 0},
		{"/catalog/bins?site=1&q=a", "rows", 8, map[string]string{"code": "code", "zone": "zone", "bay": "bay", "x": "x"}, 0},
		{"/pick/open?site=1", "rows", 4, map[string]string{"number": "number", "customer": "customer",
			"wanted": "wanted_on", "carrier": "carrier", "lines": "lines", "units": "units", "canGo": "can_go",
			"kg": "weight_kg", "metres": "metres", "minutes": "minutes"}, 0},
		{"/outbox/letters?site=1&state=waiting", "rows", 7, map[string]string{"to": "recipient", "subject": "subject",
			"document": "document", "asked": "asked_at", "person": "person", "state": "state"}, 0},
		{"/invoices/list?site=1", "invoices", 3, map[string]string{"number": "number", "customer": "customer",
			"order": "order", "shipment": "shipment", "made": "invoiced_on", "terms": "terms", "due": "due_on", "net": "net",
			"total": "total"}, 2},
		{"/purchase-orders?site=1&list=open", "orders", 11, map[string]string{"number": "number", "supplier": "supplier",
			"expected": "expected_on", "state": "state", "lines": "line_count", "value": "value", "freight": "freight",
			"carrier": "carrier", "terms": "terms", "approved": "approved_by"}, 2},
	} {
		for sort, column := range list.columns {
			for _, down := range []bool{false, true} {
				read, total := walk(lead, fmt.Sprintf("%s&sort=%s&down=%v&limit=3", list.path, sort, down), list.rows)
				sorted := slices.IsSortedFunc(read, func(a, b map[string]any) int {
					order := compareValues(a[column], b[column])
					if down {
						order = -order
					}
					return order
				})
				ids := map[string]bool{}
				for _, o := range read {
					ids[fmt.Sprint(o)] = true
				}
				if len(read) != list.many || len(ids) != list.many || total != list.many || !sorted {
					t.Errorf("%s by %s, down %v: %d rows, %d of them different, %d in all, sorted %v", list.path, sort, down,
						len(read), len(ids), total, sorted)
				}
			}
		}
		read, _ := walk(lead, list.path+"&limit=3", list.rows)
		sums, _ := lead.Get(list.path + "&limit=3").JSON()["sums"].(map[string]any)
		for name, sum := range sums {
			if added := addUp(read, list.columns[name]); added != sum {
				t.Errorf("%s: all %s come to %v, the rows to %v", list.path, name, sum, added)
			}
		}
		if want := list.sums; len(sums) != want {
			t.Errorf("%s adds up %d columns, want %d", list.path, len(sums), want)
		}
		lead.Get(list.path+"&sort=shoe").Refused(422, "malformed", "query.sort")
		lead.Get(list.path+"&after=yesterday").Refused(422, "cursor_malformed", "after")
	}
}

// walk reads a list page by page, and how many rows its first page says it has.
func walk(c *world.Client, path, called string) (rows []map[string]any, total int) {
	for after := ""; ; {
		page := c.Get(path + "&after=" + after).JSON()
		if n, told := page["total"].(float64); told {
			total = int(n)
		}
		for _, o := range page[called].([]any) {
			rows = append(rows, o.(map[string]any))
		}
		if after, _ = page["next"].(string); after == "" {
			return rows, total
		}
	}
}

// addUp is what a column of figures comes to.
func addUp(rows []map[string]any, column string) string {
	var sum decimal.Decimal
	for _, r := range rows {
		sum = sum.Add(decimal.RequireFromString(fmt.Sprint(r[column])))
	}
	return sum.String()
}

// compareValues compares two values of a column: numbers as numbers, words without case.
func compareValues(a, b any) int {
	x, err1 := decimal.NewFromString(fmt.Sprint(a))
	y, err2 := decimal.NewFromString(fmt.Sprint(b))
	if err1 == nil && err2 == nil {
		return x.Cmp(y)
	}
	return cmp.Compare(strings.ToLower(fmt.Sprint(a)), strings.ToLower(fmt.Sprint(b)))
}
