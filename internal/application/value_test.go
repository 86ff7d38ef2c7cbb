package application_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"net/url"
	"strconv"
	"testing"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

// book is what bare counting knows of an item's value: each piece at a site with the cost that it came at, the oldest
// first, and the average of all that are there.
type book struct {
	pieces  []int64
	average float64
}

func (b *book) in(n int, cost int64, at float64) {
	b.average = (b.average*float64(len(b.pieces)) + at*float64(n)) / float64(len(b.pieces)+n)
	for range n {
		b.pieces = append(b.pieces, cost)
	}
}

func (b *book) out(n int) []int64 {
	gone := b.pieces[:n]
	b.pieces = b.pieces[n:]
	return gone
}

func (b *book) fifo() (sum int64) {
	for _, cost := range b.pieces {
		sum += cost
	}
	return sum
}

// TestValueOnAnyDate buys at changing prices, sells, moves, counts and transfers at random, and holds what stock is
// worth then, by both methods, against a replay piece by piece; whatever it is cut by, its parts add up to the cent.
func TestValueOnAnyDate(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	r := rand.New(rand.NewPCG(15, 4))
	here, transit := &book{}, &book{}
	otherSite(t, h)
	type instant struct {
		at            time.Time
		here, transit book
	}
	var all []instant
	var customer int32
	if err := h.Owner.Get(&customer, `SELECT location_id FROM parties WHERE id = $1`, world.Customer); err != nil {
		t.Fatal(err)
	}
	move := func(from, to int32, n int) {
		if err := h.Post(ledger.Move{Item: world.Clamp, Quantity: decimal.NewFromInt(int64(n)), From: from, To: to}); err != nil {
			t.Fatal(err)
		}
	}
	buy := func() {
		n, cost := 1+r.IntN(4), 3+r.Int64N(9)
		_, a := order(t, lead, object{}, object{"item_id": world.Clamp, "quantity": fmt.Sprint(n), "price": fmt.Sprint(cost)})
		lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")), object{"version": a["version"], "lines": []object{
			{"line_id": at(a, "lines", 0, "id"), "quantity": fmt.Sprint(n)}}}).JSON()
		move(world.Dock, h.Bin(t, "A-01-1-A"), n)
		here.in(n, cost, float64(cost))
	}
	buy()
	for range 14 {
		switch n := 1 + r.IntN(3); {
		case r.IntN(2) == 0 || len(here.pieces) < n+1:
			buy()
		case r.IntN(2) == 0:
			move(h.Bin(t, "A-01-1-A"), customer, n)
			here.out(n)
		default:
			o := lead.Post("/transfer-orders", object{"from_site_id": 1, "to_site_id": 2, "wanted_on": soon, "expected_on": day(9),
				"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": fmt.Sprint(n)}}}).JSON()
			packAll(lead, picker, id(o, "id"))
			lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
			for _, cost := range here.out(n) {
				transit.in(1, cost, here.average)
			}
		}
		all = append(all, instant{time.Now(), book{append([]int64{}, here.pieces...), here.average},
			book{append([]int64{}, transit.pieces...), transit.average}})
	}
	value := func(at time.Time, method, by string, site int) object {
		return lead.Get(fmt.Sprintf("/value?at=%s&method=%s&by=%s&site=%d", url.QueryEscape(at.Format(time.RFC3339Nano)), method, by, site)).JSON()
	}
	for _, x := range all {
		if got, want := value(x.at, "fifo", "site", 1)["value"], float64(x.here.fifo()); number(t, got) != want {
			t.Fatalf("by first in, first out it is %v, and by counting %v", got, want)
		}
		got, want := number(t, value(x.at, "average", "item", 1)["value"]), x.here.average*float64(len(x.here.pieces))
		if got-want > 0.02 || want-got > 0.02 {
			t.Fatalf("by the average it is %v, and by counting %v", got, want)
		}
		whole := number(t, value(x.at, "fifo", "site", 0)["value"])
		if whole != float64(x.here.fifo()+x.transit.fifo()) {
			t.Fatalf("with what is in transit it is %v", whole)
		}
		for _, by := range []string{"zone", "bin", "item", "lot", "condition"} {
			sum := 0.0
			for _, row := range value(x.at, "fifo", by, 0)["rows"].([]any) {
				sum += number(t, at(row, "value"))
			}
			if sum-whole > 0.001 || whole-sum > 0.001 {
				t.Fatalf("by %s the parts come to %v of %v", by, sum, whole)
			}
		}
	}
	first, last := all[0].at.Format(time.RFC3339Nano), all[len(all)-1].at.Format(time.RFC3339Nano)
	for _, method := range []string{"average", "fifo"} {
		changes := lead.Get("/value/changes?site=1&method=" + method + "&from=" + url.QueryEscape(first) + "&to=" + url.QueryEscape(last)).JSON()
		addsUp(t, method, changes)
		if number(t, changes["after"]) != number(t, value(all[len(all)-1].at, method, "site", 1)["value"]) {
			t.Errorf("by %s it was worth %v at the end", method, changes["after"])
		}
	}
	lead.Blunt = true
	lead.Get("/value?at=2020-01-01T00:00:00Z").Refused(422, "day_past", "at", "the first move was entered on")
	lead.Get("/value?at="+url.QueryEscape(time.Now().AddDate(0, 0, 3).Format(time.RFC3339))).Refused(422, "day_far", "at", "has not come yet")
	h.Whole(t)
}

// addsUp fails the test unless what changed comes to the whole, with next to nothing for whole cents, and the last day to
// what there was at the end.
func addsUp(t *testing.T, method string, changes object) {
	t.Helper()
	sum := number(t, changes["before"])
	for _, row := range changes["rows"].([]any) {
		sum += number(t, at(row, "value"))
		if at(row, "kind") == "rounding" && math.Abs(number(t, at(row, "value"))) > 0.2 {
			t.Errorf("by %s whole cents come to %v", method, at(row, "value"))
		}
	}
	days := changes["days"].([]any)
	after := number(t, changes["after"])
	if math.Abs(sum-after) > 0.001 || math.Abs(number(t, at(days, len(days)-1, "value"))-after) > 0.2 {
		t.Errorf("by %s the changes come to %v of %v, and the last day to %v", method, sum, after, days[len(days)-1])
	}
}

func number(t *testing.T, v any) float64 {
	t.Helper()
	f, err := strconv.ParseFloat(fmt.Sprint(v), 64)
	if err != nil {
		t.Fatal(err)
	}
	return f
}
