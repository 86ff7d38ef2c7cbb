package application_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"net/url"
	"testing"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

// bought is what one purchase order of the test brought, and what is known of its cost.
type bought struct {
	path            string
	line            any
	quantity, price float64
	freight         float64
	asked, invoiced float64
	papers          []any
}

// each is what a unit of it costs as far as it is known.
func (b *bought) each() float64 {
	return (b.asked + (b.quantity-b.invoiced)*b.price + b.freight) / b.quantity
}

// stage is goods of the test that came (of a purchase), went on or went out.
type stage struct {
	of       *bought
	from, to int
	n        int
}

// The places of the test: outside, here, and between sites.
const outside, here, between = -1, 1, 0

// asKnown replays the steps as if all that is known now had been known when the goods came: what each place is worth
// piece by piece, first in, first out, and on average.
func asKnown(steps []stage) (fifo, average map[int]float64) {
	pieces, quantity := map[int][]*bought{}, map[int]float64{}
	average = map[int]float64{}
	for _, s := range steps {
		moved, worth := make([]*bought, s.n), 0.0
		if s.of != nil {
			for i := range moved {
				moved[i] = s.of
			}
			worth = s.of.each() * float64(s.n)
		} else {
			moved, pieces[s.from] = append([]*bought{}, pieces[s.from][:s.n]...), pieces[s.from][s.n:]
			worth = average[s.from] / quantity[s.from] * float64(s.n)
			quantity[s.from], average[s.from] = quantity[s.from]-float64(s.n), average[s.from]-worth
		}
		pieces[s.to] = append(pieces[s.to], moved...)
		quantity[s.to], average[s.to] = quantity[s.to]+float64(s.n), average[s.to]+worth
	}
	fifo = map[int]float64{}
	for place, all := range pieces {
		for _, b := range all {
			fifo[place] += b.each()
		}
	}
	return fifo, average
}

// TestWhatIsKnownLaterCountsAsIfItHadBeenKnown buys, moves on and sells at random, while suppliers ask other prices than
// were agreed, carriers ask for freight days later, and both are taken back: after every step stock is worth what a
// replay with all that is known makes it, by both methods, and what it was worth before stays what it was.
func TestWhatIsKnownLaterCountsAsIfItHadBeenKnown(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	r := rand.New(rand.NewPCG(15, 7))
	var transit, customer int32
	if err := h.Owner.Get(&transit, `INSERT INTO locations (kind, code) VALUES ('transit', 'Between sites') RETURNING id`); err != nil {
		t.Fatal(err)
	}
	if err := h.Owner.Get(&customer, `SELECT location_id FROM parties WHERE id = $1`, world.Customer); err != nil {
		t.Fatal(err)
	}
	h.Owner.MustExec(`UPDATE locations SET max_units = NULL`)
	place := map[int]int32{here: world.Dock, between: transit, outside: customer}
	var steps []stage
	var all []*bought
	held := map[int]int{}
	buy := func() {
		b := &bought{quantity: float64(2 + r.IntN(9)), price: float64(300+r.IntN(900)) / 100}
		o, a := order(t, lead, object{}, object{"item_id": world.Clamp, "quantity": fmt.Sprint(b.quantity), "price": fmt.Sprint(b.price)})
		lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")), object{"version": a["version"], "lines": []object{
			{"line_id": at(a, "lines", 0, "id"), "quantity": fmt.Sprint(b.quantity)}}}).JSON()
		b.path, b.line = fmt.Sprintf("/purchase-orders/%d", id(o, "id")), at(o, "lines", 0, "id")
		all, steps = append(all, b), append(steps, stage{b, outside, here, int(b.quantity)})
		held[here] += int(b.quantity)
	}
	papers := 0
	invoice := func(b *bought) {
		n := 1 + float64(r.IntN(int(b.quantity-b.invoiced)))
		price := math.Round(b.price*float64(80+r.IntN(45))) / 100
		papers++
		o := lead.Post(b.path+"/invoices", object{"number": fmt.Sprint("S-", papers), "invoiced_on": day(0), "lines": []object{
			{"line_id": b.line, "quantity": fmt.Sprint(n), "price": fmt.Sprint(price), "reason": "Agreed by phone"}}}).JSON()
		b.asked, b.invoiced = b.asked+n*price, b.invoiced+n
		b.papers = append(b.papers, o["invoices"].([]any)[len(o["invoices"].([]any))-1])
	}
	freight := func(b *bought) {
		amount := float64(1+r.IntN(900)) / 100
		papers++
		lead.Post(b.path+"/freight", object{"number": fmt.Sprint("C-", papers), "invoiced_on": day(0), "carrier": "Brook & Daughter",
			"amount": fmt.Sprint(amount), "sure": []string{"freight_high"}}).JSON()
		b.freight += amount
	}
	back := func(b *bought) {
		last := b.papers[len(b.papers)-1]
		o := lead.Post(fmt.Sprintf("%s/invoices/%v/take-back", b.path, at(last, "id")), object{"reason": "Asked too much"}).JSON()
		b.papers = b.papers[:len(b.papers)-1]
		b.invoiced = number(t, at(o, "lines", 0, "invoiced"))
		b.asked -= number(t, at(last, "amount"))
	}
	worth := func(at time.Time, method string, site int) float64 {
		return number(t, lead.Get(fmt.Sprintf("/value?at=%s&method=%s&site=%d", url.QueryEscape(at.Format(time.RFC3339Nano)), method,
			site)).JSON()["value"])
	}
	type instant struct {
		at            time.Time
		fifo, average float64
	}
	var before []instant
	buy()
	for n := range 40 {
		b := all[r.IntN(len(all))]
		from := []int{here, here, between}[r.IntN(3)]
		switch what := r.IntN(7); {
		case what == 0:
			buy()
		case what == 1 && b.invoiced < b.quantity:
			invoice(b)
		case what == 2:
			freight(b)
		case what == 3 && len(b.papers) > 0:
			back(b)
		case held[from] > 1:
			to := []int{outside, here + between - from}[r.IntN(2)]
			n := 1 + r.IntN(held[from]-1)
			if err := h.Post(ledger.Move{Item: world.Clamp, Quantity: decimal.NewFromInt(int64(n)), From: place[from], To: place[to]}); err != nil {
				t.Fatal(err)
			}
			steps = append(steps, stage{nil, from, to, n})
			held[from], held[to] = held[from]-n, held[to]+n
		}
		now := time.Now()
		fifo, average := asKnown(steps)
		x := instant{now, worth(now, "fifo", 1), worth(now, "average", 1)}
		if due := fifo[here]; math.Abs(x.fifo-due) > 0.02 {
			t.Fatalf("step %d: first in, first out it is worth %v, and a replay says %v", n, x.fifo, due)
		}
		if due := average[here]; math.Abs(x.average-due) > 0.02 {
			t.Fatalf("step %d: on average it is worth %v, and a replay says %v", n, x.average, due)
		}
		if whole, due := worth(now, "average", 0), average[here]+average[between]; math.Abs(whole-due) > 0.03 {
			t.Fatalf("step %d: with what is between sites it is worth %v, and a replay says %v", n, whole, due)
		}
		before = append(before, x)
	}
	for _, x := range before {
		if fifo, average := worth(x.at, "fifo", 1), worth(x.at, "average", 1); fifo != x.fifo || average != x.average {
			t.Fatalf("at %s it was worth %v and %v, and now %v and %v", x.at, x.fifo, x.average, fifo, average)
		}
	}
	entriesAddUp(t, lead, before[0].at)
	h.Whole(t)
}

// entriesAddUp holds each entry's parts against its whole, and the entries against what changed the value.
func entriesAddUp(t *testing.T, lead *world.Client, since time.Time) {
	t.Helper()
	entries := lead.Get("/value/recosts?limit=500").JSONs()
	left := map[string]float64{}
	for _, e := range entries {
		amount := number(t, at(e, "amount"))
		for _, method := range []string{"average", "fifo"} {
			if sum := number(t, at(e, "left_"+method)) + number(t, at(e, "gone_"+method)); math.Abs(sum-amount) > 1e-6 {
				t.Errorf("by %s the parts come to %v of %v", method, sum, amount)
			}
			left[method] += number(t, at(e, "left_"+method))
		}
	}
	for method, left := range left {
		changes := lead.Get("/value/changes?site=0&method=" + method + "&from=" + url.QueryEscape(since.Format(time.RFC3339Nano))).JSON()
		addsUp(t, method, changes)
		for _, row := range changes["rows"].([]any) {
			if at(row, "kind") == "recosted" && math.Abs(number(t, at(row, "value"))-left) > 1 {
				t.Errorf("by %s %v is said to be re-costed, and the entries come to %v", method, at(row, "value"), left)
			}
		}
	}
	if len(entries) < 5 {
		t.Errorf("there were %d entries", len(entries))
	}
}

// TestFreightTakesThePlaceOfWhatWasAgreed follows 6 of freight that were agreed, 12 that a carrier asks and 3 that another
// does, worked by hand: 10 clamps at 2 and 2 heavy ones at 5 bear it as 2 to 1.
func TestFreightTakesThePlaceOfWhatWasAgreed(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	o, a := order(t, lead, object{"freight": "6", "freight_by": "value"}, object{"item_id": world.Clamp, "quantity": "10", "price": "2"},
		object{"item_id": world.Heavy, "quantity": "2", "price": "5"})
	path, arrival := fmt.Sprintf("/purchase-orders/%d", id(o, "id")), fmt.Sprintf("/arrivals/%d", id(a, "id"))
	receive := func(clamps, heavy string) {
		var lines []object
		for i, q := range []string{clamps, heavy} {
			if q != "" {
				lines = append(lines, object{"line_id": at(a, "lines", i, "id"), "quantity": q})
			}
		}
		a = lead.Post(arrival+"/receive", object{"version": a["version"], "lines": lines}).JSON()
	}
	freight := func(number, amount string, more object) world.Answer {
		in := object{"number": number, "invoiced_on": day(0), "carrier": "Brook & Daughter", "amount": amount}
		for k, v := range more {
			in[k] = v
		}
		return lead.Post(path+"/freight", in)
	}
	stands := func(clamps, heavy string) {
		t.Helper()
		for _, method := range []string{"average", "fifo"} {
			got := map[string]string{}
			for _, row := range lead.Get("/value?site=1&by=item&method=" + method).JSON()["rows"].([]any) {
				got[at(row, "label").(string)] = at(row, "value").(string)
			}
			if got["HC-050"] != clamps || got["SW-130"] != heavy {
				t.Errorf("by %s they are worth %v, not %s and %s", method, got, clamps, heavy)
			}
		}
	}
	receive("10", "1")
	stands("24", "6")
	freight("", "12", nil).Refused(422, "invoice_number_missing", "number")
	freight("B-1", "0", nil).Refused(422, "price_nought", "amount")
	freight("B-1", "12.345", nil).Refused(422, "price_malformed", "amount", "two decimals")
	freight("B-1", "12", object{"carrier": ""}).Refused(422, "carrier_unknown", "carrier")
	freight("B-1", "12", object{"carrier": "Nobody's Vans"}).Refused(422, "carrier_unknown", "carrier")
	freight("B-1", "31", nil).Refused(409, "freight_high", "amount", "more than the 30.00")
	freight("B-1", "12", nil).JSON()
	stands("28", "7")
	freight("b-1", "12", nil).Refused(409, "invoice_known", "number", "Brook & Daughter")
	receive("", "1")
	stands("28", "14")
	freight("B-2", "3", nil).JSON()
	stands("30", "15")
	// A receipt that is taken back takes along all that its goods cost.
	clamps := a["receipts"].([]any)[len(a["receipts"].([]any))-1]
	a = lead.Get(arrival).JSON()
	for _, r := range a["receipts"].([]any) {
		if at(r, "quantity") == "10" {
			clamps = r
		}
	}
	lead.Post(arrival+"/undo", object{"version": a["version"], "move_id": at(clamps, "move_id"), "reason": "They were not ours"}).JSON()
	stands("", "15")
	draft := lead.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": soon,
		"lines": []object{{"item_id": world.Clamp, "quantity": "1"}}}).JSON()
	path = fmt.Sprintf("/purchase-orders/%d", id(draft, "id"))
	freight("B-3", "1", nil).Refused(409, "order_not_placed", "")
	world.SignOn(t, base, "picker").Post(path+"/freight", object{"number": "B-3", "invoiced_on": day(0), "carrier": "Brook & Daughter",
		"amount": "1"}).Refused(403, "role", "")
	h.Whole(t)
}
