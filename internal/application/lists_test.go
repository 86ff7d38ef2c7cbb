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
// many there are.
func TestListsAreSortedPageByPage(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	for i := range 11 {
		lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
			"reference": fmt.Sprint("PO ", i%3), "lines": []object{{"item_id": world.Clamp, "quantity": fmt.Sprint(1 + i%4)}}}).JSON()
		lead.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": soon,
			"freight": fmt.Sprint(i % 2), "terms": strings.Repeat("x", i%3),
			"lines": []object{{"item_id": world.Clamp, "quantity": fmt.Sprint(1 + i%4)}}}).JSON()
	}
	for _, list := range []struct {
		path string
		// columns names what each sort goes by, as the answer has it.
		columns map[string]string
	}{
		{"/sales-orders/list?site=1&state=open", map[string]string{"number": "number", "customer": "customer",
			"wanted": "wanted_on", "state": "state", "carrier": "carrier", "reference": "reference", "units": "quantity",
			"reserved": "reserved", "cartons": "picked", "shipped": "shipped", "value": "value"}},
		{"/purchase-orders?site=1&list=open", map[string]string{"number": "number", "supplier": "supplier",
			"expected": "expected_on", "state": "state", "lines": "line_count", "value": "value", "freight": "freight",
			"carrier": "carrier", "terms": "terms", "approved": "approved_by"}},
	} {
		for sort, column := range list.columns {
			for _, down := range []bool{false, true} {
				read, total := walk(lead, fmt.Sprintf("%s&sort=%s&down=%v&limit=3", list.path, sort, down))
				sorted := slices.IsSortedFunc(read, func(a, b map[string]any) int {
					order := compareValues(a[column], b[column])
					if down {
						order = -order
					}
					return order
				})
				ids := map[string]bool{}
				for _, o := range read {
					ids[fmt.Sprint(o["id"])] = true
				}
				if len(read) != 11 || len(ids) != 11 || total != 11 || !sorted {
					t.Errorf("%s by %s, down %v: %d orders, %d of them different, %d in all, sorted %v", list.path, sort, down,
						len(read), len(ids), total, sorted)
				}
			}
		}
		lead.Get(list.path+"&sort=shoe").Refused(422, "malformed", "query.sort")
	}
}

// walk reads a list page by page, and how many rows its first page says it has.
func walk(c *world.Client, path string) (rows []map[string]any, total int) {
	for after := ""; ; {
		page := c.Get(path + "&after=" + after).JSON()
		if n, told := page["total"].(float64); told {
			total = int(n)
		}
		for _, o := range page["orders"].([]any) {
			rows = append(rows, o.(map[string]any))
		}
		if after, _ = page["next"].(string); after == "" {
			return rows, total
		}
	}
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
