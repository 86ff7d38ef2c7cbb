package application_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"lanternrow/internal/test/world"
)

// TestARandomMonthBetweenSitesAndCustomersAddsUp sells, transfers between three sites, relays, refills, returns in
// every way and settles clamps at random, and holds the house against bare counting after every step: what is ours
// anywhere is what came in less what went out, returned is at most shipped, in transit is what was sent less what is
// known of it, and credited is what was decided and invoiced.
func TestARandomMonthBetweenSitesAndCustomersAddsUp(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	m := &month{t: t, h: h, lead: world.SignOn(t, base, "lead"), r: rand.New(rand.NewPCG(14, 26)), ramp: otherSite(t, h),
		did: map[string]int{}}
	h.Owner.MustExec(`INSERT INTO sites (code, name, cross_aisles) VALUES ('TH', 'Third House', '{0,10}')`)
	for kind, code := range map[string]string{"damaged": "Broken goods", "quarantine": "Aside", "dock": "Landing"} {
		h.Owner.MustExec(`INSERT INTO locations (site_id, kind, code) SELECT id, $1, $2 FROM sites WHERE id > 1`, kind, code)
	}
	h.Stock(t, world.Heavy, h.Bin(t, "A-04-1-A"), 20)
	m.lead.Post("/catalog/relays/import", object{"site_id": world.Site, "rows": []object{{"name": "Half", "to_site": "Other House",
		"item": "HC-050", "how": "share", "share_pct": "50"}}}).JSON()
	levels(m.lead, "HC-050 / A-02-1-A", "3", "6").JSON()
	m.lead.Post("/catalog/return-kinds/import", object{"site_id": world.Site, "rows": []object{{"name": "Keep it", "goods_stay": "yes",
		"gives_when": "announced"}}}).JSON()
	m.came()
	for n := range 200 {
		m.step()
		m.stands()
		followsOne(t, h, n)
	}
	for _, what := range []string{"sale", "return", "in", "decision", "credit", "transfer", "received", "case", "settled",
		"relay", "refill", "replacement", "exchange", "without paper", "kept"} {
		if m.did[what] == 0 {
			t.Errorf("no %s in a whole month: %v", what, m.did)
		}
	}
	if got := credited(t, m.lead); got != float64(m.owed) {
		t.Errorf("credited are %v, and by counting %d", got, m.owed)
	}
	h.Whole(t)
}

// month is a house in which clamps come and go at random, and what bare counting knows of it.
type month struct {
	t    *testing.T
	h    *world.House
	lead *world.Client
	r    *rand.Rand
	ramp int32
	did  map[string]int
	// ours is how many clamps are anywhere of ours; transit how many of them are between the sites.
	ours, transit, owed int
	sales               []*aSale
	returns             []*comingBack
	sent                []*underWay
}

type aSale struct {
	number string
	left   int
}

type comingBack struct {
	id                           int64
	announced, received, decided int
	kind                         string
	settled                      bool
}

type underWay struct {
	order, line, arrival int64
	shipped, known       int
	cases                []int64
}

// came brings clamps from the supplier.
func (m *month) came() {
	m.h.Stock(m.t, world.Clamp, m.h.Bin(m.t, "A-01-1-A"), 15)
	m.ours += 15
}

func (m *month) step() {
	m.t.Helper()
	switch m.r.IntN(18) {
	case 0, 1:
		m.sell()
	case 2, 3, 4:
		m.announce()
	case 5, 6, 7, 8, 9:
		m.goOn()
	case 10:
		m.send()
	case 11:
		m.relay()
	case 12:
		m.fillUp()
	case 13:
		m.withoutPaper()
	default:
		m.arrive()
	}
}

// sell ships one to four, invoiced, when there are as many in bins that nobody else has.
func (m *month) sell() {
	n := 1 + m.r.IntN(4)
	if m.free() < n {
		m.refill()
		return
	}
	d := soldOnce(m.lead, world.Clamp, fmt.Sprint(n), true)
	m.sales, m.ours = append(m.sales, &aSale{d["number"].(string), n}), m.ours-n
	m.did["sale"]++
}

// refill brings more where the shelf has room for it.
func (m *month) refill() {
	var holds int
	if _, err := fmt.Sscan(m.h.Holds(m.t, m.h.Bin(m.t, "A-01-1-A"), world.Clamp), &holds); err != nil || holds <= 9 {
		m.came()
	}
}

// relay receives some of a supplier, of which half moves on by itself.
func (m *month) relay() {
	n := 2 + 2*m.r.IntN(3)
	_, a := order(m.t, m.lead, nil, object{"item_id": world.Clamp, "quantity": fmt.Sprint(n)})
	m.lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")), object{"version": a["version"], "lines": []object{
		{"line_id": at(a, "lines", 0, "id"), "quantity": fmt.Sprint(n)}}}).JSON()
	m.ours += n
	o := m.lead.Get("/transfer-orders?site=1&sort=number&down=true").Rows()[0]
	if o["wanted"] != fmt.Sprint(n/2) || o["state"] != "released" {
		m.t.Fatalf("of %d received moves on %v", n, o)
	}
	m.ship(o, n/2, m.ramp)
	m.did["relay"]++
}

// fillUp fills the picking bin from reserve, on one walk; what is ours stays where it is counted.
func (m *month) fillUp() {
	a := m.lead.Post("/refills", object{"site_id": world.Site})
	if a.Status != 200 {
		a.Refused(409, "nothing_to_take", "")
		return
	}
	r := a.JSONs()[0]
	r = m.lead.Post(fmt.Sprintf("/refills/%d/begin", id(r, "id")), nil).JSON()
	for r["state"] == "walking" {
		r = walked(m.lead, r, nil).JSON()
	}
	m.did["refill"]++
}

// withoutPaper takes some clamps that nobody has a paper of.
func (m *month) withoutPaper() {
	n := 1 + m.r.IntN(2)
	r := m.lead.Post("/returns/without-paper", object{"site_id": world.Site, "customer_id": world.Customer,
		"kind_id": kindOf(m.lead, "Without paper"), "reason": "it stood in the yard",
		"lines": []object{{"item_id": world.Clamp, "quantity": fmt.Sprint(n), "reason_id": 1}}}).JSON()
	m.returns = append(m.returns, &comingBack{id: id(r, "id"), announced: n, kind: "Without paper"})
	m.did["without paper"]++
}

// free is how many lie free in the bins that sales go from.
func (m *month) free() int {
	var n int
	if err := m.h.Owner.Get(&n, `
		SELECT coalesce(sum(quantity - reserved), 0)::int FROM balances b JOIN locations p ON p.id = b.location_id
		 WHERE p.site_id = 1 AND p.kind = 'bin' AND b.item_id = 1 AND b.condition = 'good' AND b.quantity > 0`); err != nil {
		m.t.Fatal(err)
	}
	return n
}

// announce announces a return of some of a sale; more than may come back is refused.
func (m *month) announce() {
	if len(m.sales) == 0 {
		return
	}
	s := m.sales[m.r.IntN(len(m.sales))]
	sold := m.lead.Get("/returnable?q=" + s.number).JSONs()[0]
	if sold["returnable"] != fmt.Sprint(s.left) {
		m.t.Fatalf("%v of %s may come back, and by counting %d", sold["returnable"], s.number, s.left)
	}
	n := 1 + m.r.IntN(3)
	kind := []string{"Credit", "Refused delivery", "Repair", "Same again", "Something else", "Keep it"}[m.r.IntN(6)]
	a := m.lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(m.lead, kind),
		"lines": []object{back(sold, fmt.Sprint(n))}})
	if n > s.left {
		a.Refused(409, "over_returnable", "lines[0].quantity")
		return
	}
	m.returns, s.left = append(m.returns, &comingBack{id: id(a.JSON(), "id"), announced: n, kind: kind}), s.left-n
	m.did["return"]++
}

// goOn takes a return a step on: goods come in, are decided on, or are paid for.
func (m *month) goOn() {
	if len(m.returns) == 0 {
		return
	}
	// The latest ones, so that they come to an end.
	last := m.returns[max(0, len(m.returns)-6):]
	x := last[m.r.IntN(len(last))]
	path := fmt.Sprintf("/returns/%d", x.id)
	now := m.lead.Get(path).JSON()
	switch {
	case x.kind == "Keep it":
		m.keep(x, path, now)
	case x.received < x.announced:
		n := 1 + m.r.IntN(x.announced-x.received)
		comeIn(m.lead, now, fmt.Sprint(n)).JSON()
		x.received, m.ours = x.received+n, m.ours+n
		m.did["in"]++
		if x.kind == "Same again" && x.received == x.announced {
			m.again(path, x)
		}
	case x.kind == "Something else" && !x.settled:
		m.pay(x, path, now)
	case x.decided < x.received:
		n := 1 + m.r.IntN(x.received-x.decided)
		fate := []string{"stock", "quarantine", "damaged", "scrap", "repair"}[m.r.IntN(5)]
		m.lead.Post(path+"/decide", object{"version": now["version"], "line_id": at(now, "lines", 0, "id"), "fate": fate,
			"quantity": fmt.Sprint(n), "reason": "as it looks"}).JSON()
		if x.decided += n; fate == "scrap" {
			m.ours -= n
		}
		m.did["decision"]++
	default:
		m.pay(x, path, now)
	}
}

// pay settles a return whose goods are all decided: in money where its kind gives that, and once.
func (m *month) pay(x *comingBack, path string, now object) {
	in := object{"version": now["version"]}
	if x.kind == "Something else" {
		in["instead"] = []object{{"item_id": world.Heavy, "quantity": "1"}}
	}
	a := m.lead.Post(path+"/settle", in)
	if x.kind == "Without paper" {
		a.Refused(422, "invoice_missing", "against")
		return
	}
	if x.settled || x.kind == "Repair" {
		a.Refused(409, "return_settled", "")
		return
	}
	if a.JSON(); x.kind == "Something else" {
		m.did["exchange"]++
	}
	x.settled, m.owed = true, m.owed+20*x.received
	m.did["credit"]++
}

// keep pays for goods that the customer keeps, once.
func (m *month) keep(x *comingBack, path string, now object) {
	a := m.lead.Post(path+"/settle", object{"version": now["version"]})
	if x.settled {
		a.Refused(409, "return_settled", "")
		return
	}
	a.JSON()
	x.settled, m.owed = true, m.owed+20*x.announced
	m.did["kept"]++
}

// again ships the same again, which was ordered by itself, when there are as many.
func (m *month) again(path string, x *comingBack) {
	now := m.lead.Get(path).JSON()
	if x.settled = now["settled_at"] != nil; !x.settled || now["replacement_id"] == 0.0 {
		m.t.Fatalf("all came, and the same again is %v", now["replacement"])
	}
	if m.free() < x.announced {
		return
	}
	packedFor(m.lead, object{"id": now["replacement_id"]})
	m.lead.Post("/shipments", object{"order_id": now["replacement_id"]}).JSON()
	m.ours -= x.announced
	m.did["replacement"]++
}

// send ships some to the other site.
func (m *month) send() {
	n := 1 + m.r.IntN(4)
	if m.free() < n {
		m.refill()
		return
	}
	to, dock := world.OtherSite, m.ramp
	if m.r.IntN(2) == 0 {
		to = 3
		if err := m.h.Owner.Get(&dock, `SELECT id FROM locations WHERE site_id = 3 AND kind = 'dock'`); err != nil {
			m.t.Fatal(err)
		}
	}
	o := m.lead.Post("/transfer-orders", object{"from_site_id": world.Site, "to_site_id": to, "wanted_on": soon,
		"expected_on": day(9), "release": true, "lines": []object{{"item_id": world.Clamp, "quantity": fmt.Sprint(n)}}}).JSON()
	m.ship(o, n, dock)
	m.did["transfer"]++
}

// ship packs and ships a transfer, and has it expected at a dock of the other site.
func (m *month) ship(o object, n int, dock int32) {
	packedFor(m.lead, o)
	m.lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	now := m.lead.Get(fmt.Sprintf("/transfer-orders/%d", id(o, "id"))).JSON()
	arrival := m.lead.Post("/arrivals", object{"order_ids": []any{at(now, "shipments", 0, "inbound_id")}, "dock_id": dock}).JSON()
	m.sent = append(m.sent, &underWay{order: id(o, "id"), line: id(now, "expected", 0, "line_id"), arrival: id(arrival, "id"), shipped: n})
	m.transit += n
}

// arrive receives some of a transfer, tells of a difference, or settles one.
func (m *month) arrive() {
	if len(m.sent) == 0 {
		return
	}
	last := m.sent[max(0, len(m.sent)-4):]
	x := last[m.r.IntN(len(last))]
	left := x.shipped - x.known
	switch {
	case len(x.cases) > 0 && m.r.IntN(2) == 0:
		m.settle(x)
	case left > len(x.cases) && m.r.IntN(3) == 0:
		c := m.lead.Post("/transfer-cases", object{"line_id": x.line, "kind": []string{"less", "damaged"}[m.r.IntN(2)],
			"quantity": "1"}).JSON()
		x.cases = append(x.cases, id(c, "id"))
		m.did["case"]++
	case left > len(x.cases):
		n := 1 + m.r.IntN(left-len(x.cases))
		a := m.lead.Get(fmt.Sprintf("/arrivals/%d", x.arrival)).JSON()
		m.lead.Post(fmt.Sprintf("/arrivals/%d/receive", x.arrival), object{"version": a["version"], "lines": []object{
			{"line_id": x.line, "quantity": fmt.Sprint(n)}}}).JSON()
		x.known, m.transit = x.known+n, m.transit-n
		m.did["received"]++
	default:
		m.lead.Post("/transfer-cases", object{"line_id": x.line, "kind": "less", "quantity": fmt.Sprint(left + 1)}).
			Refused(409, "over_in_transit", "quantity")
	}
}

// settle ends the oldest case of a transfer: its unit is here, at the first site, or gone.
func (m *month) settle(x *underWay) {
	of := fmt.Sprintf("/transfer-cases/%d/settle", x.cases[0])
	how := []string{"received", "back", "lost", "carrier"}[m.r.IntN(4)]
	m.lead.Post(of, object{"outcome": how, "reason": "as it turned out"}).JSON()
	m.lead.Post(of, object{"outcome": how, "reason": "as it turned out"}).Refused(409, "case_settled", "")
	x.cases, x.known, m.transit = x.cases[1:], x.known+1, m.transit-1
	if how == "lost" || how == "carrier" {
		m.ours--
	}
	m.did["settled"]++
}

// stands holds the house against what was counted.
func (m *month) stands() {
	m.t.Helper()
	var ours, transit int
	err := m.h.Owner.QueryRow(`
		SELECT coalesce(sum(b.quantity), 0)::int, coalesce(sum(b.quantity) FILTER (WHERE p.kind = 'transit'), 0)::int
		  FROM balances b JOIN locations p ON p.id = b.location_id WHERE p.real AND b.item_id = $1`, world.Clamp).Scan(&ours, &transit)
	if err != nil {
		m.t.Fatal(err)
	}
	if ours != m.ours || transit != m.transit {
		m.t.Fatalf("ours are %d with %d between the sites, and by counting %d with %d; done: %v", ours, transit, m.ours, m.transit, m.did)
	}
	for _, x := range m.sent {
		now := m.lead.Get(fmt.Sprintf("/transfer-orders/%d", x.order)).JSON()
		if now["in_transit"] != fmt.Sprint(x.shipped-x.known) {
			m.t.Fatalf("%v of a transfer are in transit, and by counting %d", now["in_transit"], x.shipped-x.known)
		}
	}
}

// credited is what the credit notes of returns come to before tax.
func credited(t *testing.T, c *world.Client) float64 {
	t.Helper()
	total := 0.0
	for _, b := range c.Get("/invoices?site=1").JSONs() {
		if b["return"] != "" {
			var net float64
			if _, err := fmt.Sscan(fmt.Sprint(b["net"]), &net); err != nil {
				t.Fatal(err)
			}
			total -= net
		}
	}
	return total
}
