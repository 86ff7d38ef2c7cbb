package application_test

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"testing"

	"lanternrow/internal/exchange"
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

// TestAFileIsTheListAsItIsSorted reads lists as files: each has the rows of all pages, in the order
// that is asked for, as CSV and as XLSX.
func TestAFileIsTheListAsItIsSorted(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	for i, location := range []int32{h.Bin(t, "A-01-1-A"), h.Bin(t, "B-01-1-A"), h.Bin(t, "A-02-1-A"), world.Dock} {
		h.Stock(t, world.Clamp, location, int64(5+i%3))
	}
	o := sellNow(lead, world.Clamp, "4", world.Heavy, "1")
	for i, bin := range []string{"A-01-1-A", "B-01-1-A", "A-02-1-A"} {
		lead.Post(fmt.Sprintf("/sales-lines/%v/reservations", at(o, "lines", 0, "id")), object{"reservations": []object{
			{"location_id": h.Bin(t, bin), "quantity": []string{"1", "2", "1"}[i]}}}).JSON()
	}
	task := lead.Post("/schedules", object{"site_id": world.Site, "task": "release-orders",
		"rule": object{"at": []string{"07:30"}}, "settings": object{"days": 1}}).JSON()
	for range 3 {
		lead.Post(fmt.Sprintf("/schedules/%v/run", task["id"]), nil).JSON()
	}
	for _, list := range []struct {
		// path is asked for pages, and file for the same as a file.
		path, file string
		// column is of the rows, and heads the first column of the file.
		column, head string
	}{
		{fmt.Sprintf("/holdings?of=item&id=%d&site=1&sort=quantity&down=true", world.Clamp),
			fmt.Sprintf("/holdings/export?of=item&id=%d&site=1&sort=quantity&down=true", world.Clamp), "location", "location"},
		{fmt.Sprintf("/holdings?of=location&id=%d&site=1", world.Dock),
			fmt.Sprintf("/holdings/export?of=location&id=%d&site=1", world.Dock), "location", "location"},
		{"/reservations?site=1&sort=quantity&down=true&q=S-", "/reservations/export?site=1&sort=quantity&down=true&q=S-",
			"order", "order"},
		{"/stock/items?site=1&sort=on_hand&down=true", "/stock/items/export?site=1&sort=on_hand&down=true", "sku", "sku"},
		{"/stock/items?site=1&which=none&q=cl", "/stock/items/export?site=1&which=none&q=cl", "sku", "sku"},
		{fmt.Sprintf("/schedules/%v/runs?sort=when&down=true", task["id"]),
			fmt.Sprintf("/schedules/%v/runs/export?sort=when&down=true", task["id"]), "", "ran_at"},
	} {
		rows, total := walk(lead, list.path+"&limit=2", "rows")
		for _, format := range []string{exchange.CSV, exchange.XLSX} {
			table, err := exchange.Read(lead.Get(list.file + "&format=" + format).Body)
			if err != nil || len(table.Rows) != total || len(rows) != total || table.Header[0] != list.head {
				t.Fatalf("%s as %s: %d of %d rows under %v, %d in pages: %v", list.file, format, len(table.Rows), total,
					table.Header, len(rows), err)
			}
			for i, row := range table.Rows {
				if list.column != "" && row[0] != rows[i][list.column] {
					t.Errorf("%s as %s, row %d is %v, and on its page %v", list.file, format, i, row, rows[i])
				}
			}
		}
	}
	// A trail is a file from either end, of whatever it is.
	for _, of := range []string{fmt.Sprintf("/items/%d", world.Clamp), fmt.Sprintf("/locations/%d", world.Dock)} {
		newest, err1 := exchange.Read(lead.Get(of + "/trail/export?site=1").Body)
		oldest, err2 := exchange.Read(lead.Get(of + "/trail/export?site=1&oldest=true").Body)
		slices.Reverse(oldest.Rows)
		if err1 != nil || err2 != nil || len(newest.Rows) == 0 || fmt.Sprint(newest.Rows) != fmt.Sprint(oldest.Rows) {
			t.Errorf("%s: %v from the newest, %v from the oldest: %v %v", of, newest.Rows, oldest.Rows, err1, err2)
		}
	}
}

// TestWhatIsTypedIsCountedInBaseUnits counts packs, and says what cannot be counted and why.
func TestWhatIsTypedIsCountedInBaseUnits(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	viewer := world.SignOn(t, base, "lead")
	for _, c := range []struct {
		item     int32
		pack     int
		quantity string
		want     string
		wrong    string
	}{
		{world.Clamp, 0, "7", "7", ""},
		{world.Clamp, 2, "4", "48", ""},
		{world.Clamp, 2, "1.5", "0", "whole"},
		{world.Clamp, 99, "1", "0", "no such pack"},
		{world.Clamp, 0, "seven", "0", "seven"},
		{world.Cloth, 0, "2.5", "2.5", ""},
		{world.Clamp, 2, "0", "0", "0"},
	} {
		counts := viewer.Post("/items/count", object{"counted": []object{{"item_id": c.item, "pack_id": c.pack,
			"quantity": c.quantity}}}).JSONs()
		got := counts[0]
		if got["quantity"] != c.want || (got["wrong"] == "") != (c.wrong == "") ||
			!strings.Contains(got["wrong"].(string), c.wrong) {
			t.Errorf("%q in pack %d of item %d: %v, want %s, %q", c.quantity, c.pack, c.item, got, c.want, c.wrong)
		}
	}
}
