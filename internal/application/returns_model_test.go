package application_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"lanternrow/internal/test/world"
)

// TestARandomMonthBetweenSitesAndCustomersAddsUp sells, transfers, returns and settles clamps at random, and holds the
// house against bare counting after every step: what is ours anywhere is what came in less what went out, returned is at
// most shipped, in transit is what was sent less what is known of it, and credited is what was decided and invoiced.
func TestARandomMonthBetweenSitesAndCustomersAddsUp(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	m := &month{t: t, h: h, lead: world.SignOn(t, base, "lead"), r: rand.New(rand.NewPCG(14, 26)), ramp: otherSite(t, h),
		did: map[string]int{}}
	for kind, code := range map[string]string{"damaged": "Broken goods", "quarantine": "Aside"} {
		if _, err := h.Owner.Exec(`INSERT INTO locations (site_id, kind, code) VALUES (2, $1, $2)`, kind, code); err != nil {
			t.Fatal(err)
		}
	}
	m.came()
	for range 90 {
		m.step()
		m.stands()
	}
	for _, what := range []string{"sale", "return", "in", "decision", "credit", "transfer", "received", "case", "settled"} {
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
	switch m.r.IntN(7) {
	case 0:
		m.sell()
	case 1:
		m.announce()
	case 2, 3:
		m.goOn()
	case 4:
		m.send()
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
	if m.h.Holds(m.t, m.h.Bin(m.t, "A-01-1-A"), world.Clamp) == "0" {
		m.came()
	}
}

// free is how many lie free in the bin that sales go from.
func (m *month) free() int {
	var n int
	if err := m.h.Owner.Get(&n, `
		SELECT coalesce(sum(quantity - reserved), 0)::int FROM balances b JOIN locations p ON p.id = b.location_id
		 WHERE p.code = 'A-01-1-A' AND b.condition = 'good' AND b.quantity > 0`); err != nil {
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
	kind := []string{"Credit", "Refused delivery", "Repair"}[m.r.IntN(3)]
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
	x := m.returns[m.r.IntN(len(m.returns))]
	path := fmt.Sprintf("/returns/%d", x.id)
	now := m.lead.Get(path).JSON()
	switch {
	case x.received < x.announced:
		n := 1 + m.r.IntN(x.announced-x.received)
		comeIn(m.lead, now, fmt.Sprint(n)).JSON()
		x.received, m.ours = x.received+n, m.ours+n
		m.did["in"]++
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
	a := m.lead.Post(path+"/settle", object{"version": now["version"]})
	if x.settled || x.kind == "Repair" {
		a.Refused(409, "return_settled", "")
		return
	}
	a.JSON()
	x.settled, m.owed = true, m.owed+20*x.decided
	m.did["credit"]++
}

// send ships some to the other site.
func (m *month) send() {
	n := 1 + m.r.IntN(4)
	if m.free() < n {
		m.refill()
		return
	}
	o := m.lead.Post("/transfer-orders", object{"from_site_id": world.Site, "to_site_id": world.OtherSite, "wanted_on": soon,
		"expected_on": day(9), "release": true, "lines": []object{{"item_id": world.Clamp, "quantity": fmt.Sprint(n)}}}).JSON()
	packedFor(m.lead, o)
	m.lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	now := m.lead.Get(fmt.Sprintf("/transfer-orders/%d", id(o, "id"))).JSON()
	arrival := m.lead.Post("/arrivals", object{"order_ids": []any{at(now, "shipments", 0, "inbound_id")}, "dock_id": m.ramp}).JSON()
	m.sent = append(m.sent, &underWay{order: id(o, "id"), line: id(now, "expected", 0, "line_id"), arrival: id(arrival, "id"), shipped: n})
	m.transit += n
	m.did["transfer"]++
}

// arrive receives some of a transfer, tells of a difference, or settles one.
func (m *month) arrive() {
	if len(m.sent) == 0 {
		return
	}
	x := m.sent[m.r.IntN(len(m.sent))]
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
