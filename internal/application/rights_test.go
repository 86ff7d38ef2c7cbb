package application_test

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/test/world"
)

// named are what figures of money are called in answers.
var named = regexp.MustCompile(`^(base|per_kg|price|sales_price|cost|unit_cost|landed|amount|net|value|freight|share|each|rate|credited|credit_limit|` +
	`overdue|approve_above|discount_pct|price_why)$`)

// moneyIn finds figures of money in an answer, by where they stand.
func moneyIn(v any, at string) (found []string) {
	switch v := v.(type) {
	case object:
		for name, inner := range v {
			if s, ok := inner.(string); named.MatchString(name) && ok && s != "" {
				found = append(found, at+"."+name+" is "+s)
			}
			found = append(found, moneyIn(inner, at+"."+name)...)
		}
	case []any:
		for i, inner := range v {
			found = append(found, moneyIn(inner, fmt.Sprintf("%s[%d]", at, i))...)
		}
	}
	return found
}

// told is what somebody is told of money at a path.
func told(c *world.Client, path string) []string {
	var v any
	c.Get(path).Into(&v)
	return moneyIn(v, "")
}

// TestMoneyIsSeenByThoseWhoHaveToDoWithIt: of everything that tells a lead of money a viewer, a picker and a receiver are
// told all but the money, and what is of money alone is closed to them; the office sees it.
func TestMoneyIsSeenByThoseWhoHaveToDoWithIt(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, clerk, receiver := world.SignOn(t, base, "lead"), world.SignOn(t, base, "clerk"), world.SignOn(t, base, "receiver")
	order, _ := buy(t, lead, "20", "8")
	h.Owner.MustExec(`UPDATE parties SET credit_limit = 90000 WHERE id = $1`, world.Customer)
	h.Owner.MustExec(`UPDATE sites SET approve_above = 4000`)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	sale := clerk.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"lines": []object{{"item_id": world.Clamp, "quantity": "2"}}}).JSON()
	closed := []string{"/value?site=1", "/value/changes?site=1", "/invoices?site=1", "/uninvoiced?site=1", "/supplier-credits?site=1",
		fmt.Sprintf("/purchase-orders/%d/order.pdf", id(order, "id")), fmt.Sprintf("/sales-orders/%d/confirmation.pdf", id(sale, "id"))}
	open := []string{fmt.Sprintf("/purchase-orders/%d", id(order, "id")), "/purchase-orders?site=1",
		fmt.Sprintf("/sales-orders/%d", id(sale, "id")), "/sales-orders/list?site=1", "/items?site=1&q=CL", "/catalog/customers?site=1",
		"/catalog/items?site=1", "/catalog/sites?site=1", "/history?site=1", "/carriers?site=1"}
	for _, path := range open {
		if len(told(lead, path)) == 0 || len(told(clerk, path)) == 0 {
			t.Errorf("%s tells nothing of money", path)
		}
	}
	for _, who := range []string{"viewer", "picker", "receiver"} {
		c := world.SignOn(t, base, who)
		for _, path := range closed {
			c.Get(path).Refused(403, "role", "", "Your role, "+who, "lead, office, accounts")
		}
		for _, path := range open {
			if found := told(c, path); len(found) > 0 {
				t.Errorf("a %s is told in %s: %s", who, path, strings.Join(found, ", "))
			}
		}
		for _, path := range []string{"/sales-orders/export?site=1", "/purchase-orders/export?site=1", "/history/export?site=1",
			"/catalog/items/export?site=1"} {
			head, _, _ := strings.Cut(string(c.Get(path).Body), "\n")
			columns := strings.Split(strings.TrimSpace(head), ",")
			if len(columns) < 4 || slices.ContainsFunc(columns, named.MatchString) {
				t.Errorf("a %s reads %v in %s", who, columns, path)
			}
		}
	}
	// A badge is good for the floor, and the floor sees no money.
	if found := told(world.SignOnBadge(t, base, "B-001"), open[0]); len(found) > 0 {
		t.Errorf("a lead with a badge is told %v", found)
	}
	// A receiver who may not send what comes to so much is not told how much that is.
	large := receiver.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": soon,
		"lines": []object{{"item_id": world.Clamp, "quantity": "900"}}}).JSON()
	send := receiver.Post(fmt.Sprintf("/purchase-orders/%d/send-to-supplier", id(large, "id")), object{"version": large["version"]})
	send.Refused(409, "approval_missing", "", "more than may be bought unasked")
	if strings.Contains(string(send.Body), "4000") || strings.Contains(string(send.Body), "facts") {
		t.Errorf("a receiver is told %s", send.Body)
	}
	// Who sees no prices sets none, and changes none by changing what stands beside them.
	h.Owner.MustExec(`UPDATE items SET cost = 99 WHERE id = $1`, world.Clamp)
	path := open[0]
	amend := func(line object) object {
		line["id"], line["item_id"], line["quantity"] = at(order, "lines", 0, "id"), world.Clamp, "21"
		return object{"version": lead.Get(path).JSON()["version"], "expected_on": soon, "lines": []object{line}}
	}
	receiver.Post(path+"/amend", amend(object{"price": "1"})).Refused(403, "role", "lines[0].price", "may set no prices")
	receiver.Post(path+"/amend", amend(object{})).JSON()
	if o := lead.Get(path).JSON(); at(o, "lines", 0, "price") != "18.75" || at(o, "lines", 0, "quantity") != "21" {
		t.Errorf("amended by who sees no prices: %v", at(o, "lines", 0))
	}
}

// TestWhatLiftsALimitIsALeads: prices are set by accounts, limits by a lead, and everything else of the catalog by the
// office; each change is kept with who made it, from what to what, and money of it is told to whom money is.
func TestWhatLiftsALimitIsALeads(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	as := func(who string) *world.Client { return world.SignOn(t, base, who) }
	lead, clerk, accounts := as("lead"), as("clerk"), as("accounts")
	set := func(c *world.Client, sheet string, row object) world.Answer {
		return c.Post("/catalog/"+sheet+"/import", object{"site_id": 1, "rows": []object{row}})
	}
	var code string
	if err := h.Owner.Get(&code, `SELECT code FROM parties WHERE id = $1`, world.Customer); err != nil {
		t.Fatal(err)
	}
	limit, discount, address := object{"code": code, "credit_limit": "900"}, object{"code": code, "discount_pct": "4"},
		object{"code": code, "address": "2 Other Lane"}
	for _, c := range []*world.Client{clerk, accounts, as("office")} {
		set(c, "customers", limit).Refused(422, "rows_wrong", "credit_limit", "it stays nothing", "Ask one of: lead")
	}
	set(clerk, "customers", discount).Refused(422, "rows_wrong", "discount_pct", "lead, accounts")
	set(accounts, "customers", address).Refused(422, "rows_wrong", "address", "lead, office")
	set(as("picker"), "customers", address).Refused(403, "role", "")
	set(lead, "customers", limit).JSON()
	set(accounts, "customers", discount).JSON()
	set(clerk, "customers", address).JSON()
	set(clerk, "customers", object{"code": "NEW", "name": "Newcomers"}).JSON()
	set(clerk, "customers", object{"code": "NEWER", "name": "Others", "discount_pct": "50"}).Refused(422, "rows_wrong", "discount_pct")
	history := func(c *world.Client, key string) (out []string) {
		for _, r := range c.Get("/catalog/customers/history?key=" + key).Rows() {
			out = append(out, fmt.Sprintf("%v: %v from %q to %q", r["person"], r["field"], r["was"], r["became"]))
		}
		return out
	}
	want := []string{`Some lead: Credit limit from "" to "900"`, `Some accounts: Discount, % from "0" to "4"`}
	if got := history(lead, code); len(got) != 3 || !slices.Equal(got[:2], want) || !strings.HasPrefix(got[2], "Some clerk: Address") {
		t.Errorf("the customer's history is %v", got)
	}
	if got := history(lead, "new"); !slices.Equal(got, []string{`Some clerk:  from "" to ""`, `Some clerk: Name from "" to "Newcomers"`}) {
		t.Errorf("the newcomers' history is %v", got)
	}
	if got := history(as("viewer"), code); len(got) != 1 {
		t.Errorf("a viewer is told %v", got)
	}
	if _, err := h.App.Exec(`DELETE FROM catalog_changes`); err == nil {
		t.Error("the history of the catalog can be deleted")
	}
	// The sheet says what whoever asks may change.
	for _, s := range clerk.Get("/catalog").JSONs() {
		for _, c := range s["columns"].([]any) {
			if fixed := at(c, "fixed").(bool); fixed != (at(c, "by") != "") {
				t.Errorf("%s.%s is fixed for the clerk: %v", s["name"], at(c, "name"), fixed)
			}
		}
	}
}

// TestACommandSaysWhereItActs: one that does not is not committed, whoever runs it, unless it wrote nothing.
func TestACommandSaysWhereItActs(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	_, err := command.Do(world.As("lead"), h.Runner, "key", "forgetful", nil, func(ctx context.Context, tx *command.Tx) (int, error) {
		_, err := tx.ExecContext(ctx, `UPDATE sites SET name = 'Elsewhere' WHERE id = 1`)
		return 1, err
	})
	if n, err := command.Do(world.As("lead"), h.Runner, "idle", "idle", nil, func(ctx context.Context, tx *command.Tx) (n int, err error) {
		return n, tx.GetContext(ctx, &n, `SELECT count(*) FROM sites`)
	}); err != nil || n != 2 {
		t.Errorf("a command that has nothing to do answers %d: %v", n, err)
	}
	var name string
	if e := h.App.Get(&name, `SELECT name FROM sites WHERE id = 1`); e != nil || err == nil || refusal.From(err) != nil || name == "Elsewhere" {
		t.Errorf("it was done: %v, %v, %s", err, e, name)
	}
}
