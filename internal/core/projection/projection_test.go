package projection

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
)

func dec(n int64) decimal.Decimal { return decimal.NewFromInt(n) }

// Common practice, no source: 60 physical, 7 reserved: 53 free; 30 more arrive: 83; the
// reserved order of 7 leaves: still 83.
func TestAReservedOrderDoesNotMoveTheBalanceAgain(t *testing.T) {
	c := Follow(dec(60), dec(7), []Flow{
		{On: "2027-03-04", Quantity: dec(7), Out: true, Reserved: dec(7), Document: "S-1"},
		{On: "2027-03-02", Quantity: dec(30), Document: "P-1"},
		{On: "2027-03-04", Quantity: dec(20), Out: true, Reserved: dec(5), Document: "S-2"},
		{On: "2027-03-04", Quantity: dec(4), Document: "P-2"},
	})
	var said []string
	for _, l := range c.Lines {
		said = append(said, fmt.Sprintf("%s %s %s", l.Document, l.Moves, l.After))
	}
	if got := strings.Join(said, ", "); c.Start.String() != "53" || got != "P-1 30 83, P-2 4 87, S-1 0 87, S-2 -15 72" {
		t.Errorf("from %s: %s", c.Start, got)
	}
}

func TestWhatCannotGoNowIsPromisedForADay(t *testing.T) {
	flows := []Flow{{On: "2027-03-02", Quantity: dec(10)}, {On: "2027-03-05", Quantity: dec(12), Out: true},
		{On: "2027-03-09", Quantity: dec(40)}}
	for _, x := range []struct {
		start, wanted int64
		day           string
	}{
		{5, 3, "2027-03-01"},  // 5, 15, 3, 43: three can go today.
		{5, 4, "2027-03-09"},  // More would be missing on the fifth.
		{5, 43, "2027-03-09"}, //
		{5, 44, ""},           // No day is known.
		{20, 18, "2027-03-01"},
		{20, 19, "2027-03-09"},
		{0, 0, "2027-03-09"}, // Owed already: nothing can go before the shortage is over.
	} {
		if got := Follow(dec(x.start), decimal.Zero, flows).Promise(dec(x.wanted), "2027-03-01"); got != x.day {
			t.Errorf("%d of %d: %q, want %q", x.wanted, x.start, got, x.day)
		}
	}
}

// TestAPromiseNeverTakesWhatIsPromised holds for any course: with the promised goods
// taken out on their day nothing later runs short that did not before, and a day sooner
// something would.
func TestAPromiseNeverTakesWhatIsPromised(t *testing.T) {
	r := rand.New(rand.NewPCG(53, 83))
	day := func(n int) string { return fmt.Sprintf("2027-03-%02d", n) }
	for range 4000 {
		var flows []Flow
		for range r.IntN(8) {
			f := Flow{On: day(1 + r.IntN(20)), Quantity: dec(1 + r.Int64N(20)), Out: r.IntN(2) == 0}
			if f.Out && r.IntN(3) == 0 {
				f.Reserved = dec(r.Int64N(25))
			}
			flows = append(flows, f)
		}
		c := Follow(dec(r.Int64N(30)), decimal.Zero, flows)
		wanted := dec(1 + r.Int64N(30))
		// enough tells whether the wanted can go on a day: nothing is short from then on.
		enough := func(on string) bool {
			before := c.Start
			for _, l := range c.Lines {
				if l.On <= on {
					before = l.After
				} else if l.After.LessThan(wanted) {
					return false
				}
			}
			return before.GreaterThanOrEqual(wanted)
		}
		want := ""
		for n := 20; n >= 1 && enough(day(n)); n-- {
			want = day(n)
		}
		if got := c.Promise(wanted, day(1)); got != want {
			t.Fatalf("%s of %+v: %q, want %q", wanted, c, got, want)
		}
	}
}

// TestOrdersAreServedInTheirTurn compares Served with serving the orders one by one out
// of what comes.
func TestOrdersAreServedInTheirTurn(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 60))
	for range 4000 {
		var flows []Flow
		for i := range 1 + r.IntN(8) {
			flows = append(flows, Flow{On: fmt.Sprintf("2027-03-%02d", 1+i*3+r.IntN(3)),
				Quantity: dec(1 + r.Int64N(20)), Out: r.IntN(2) == 0, Document: fmt.Sprint(i)})
		}
		stock := r.Int64N(30)
		c := Follow(dec(stock), decimal.Zero, flows)
		// A queue: what is there goes to the first in it, and waits for nobody.
		type order struct {
			document, wanted string
			left             int64
		}
		var queue []order
		served := map[string]string{}
		serve := func(on string) {
			for len(queue) > 0 && stock >= queue[0].left {
				stock -= queue[0].left
				served[queue[0].document] = max(on, queue[0].wanted)
				queue = queue[1:]
			}
			if len(queue) > 0 {
				queue[0].left, stock = queue[0].left-stock, 0
			}
		}
		for _, l := range c.Lines {
			if l.Out {
				queue = append(queue, order{l.Document, l.On, l.Quantity.IntPart()})
			} else {
				stock += l.Quantity.IntPart()
			}
			serve(l.On)
		}
		for _, l := range c.Lines {
			if l.Out && c.Served(l.Document) != served[l.Document] {
				t.Fatalf("%s of %+v is served on %q, want %q", l.Document, c, c.Served(l.Document), served[l.Document])
			}
		}
	}
}

func TestWhatALineIsShortOf(t *testing.T) {
	for name, c := range map[string]struct {
		line  Shortfall
		short int64
	}{
		"all of it is free": {Shortfall{Wanted: decimal.NewFromInt(4),
			Free: decimal.NewFromInt(2)}, 0},
		"just enough for all": {Shortfall{Wanted: decimal.NewFromInt(4),
			Free: decimal.NewFromInt(0)}, 0},
		"others are promised some of it": {Shortfall{Wanted: decimal.NewFromInt(10),
			Free: decimal.NewFromInt(-8)}, 8},
		"nothing is there": {Shortfall{Wanted: decimal.NewFromInt(10),
			Free: decimal.NewFromInt(-10)}, 10},
		"part is on order for it": {Shortfall{Wanted: decimal.NewFromInt(10),
			Free: decimal.NewFromInt(-10), OnOrder: decimal.NewFromInt(6)}, 4},
		"all is on order for it": {Shortfall{Wanted: decimal.NewFromInt(10),
			Free: decimal.NewFromInt(-10), OnOrder: decimal.NewFromInt(12)}, 0},
		"others lack too, and theirs is on order": {Shortfall{Wanted: decimal.NewFromInt(3),
			Free: decimal.NewFromInt(-10), Others: decimal.NewFromInt(8)}, 2},
		"others lack more than there is, uncovered": {Shortfall{Wanted: decimal.NewFromInt(3),
			Free: decimal.NewFromInt(-10)}, 3},
	} {
		if got := c.line.Short(); !got.Equal(decimal.NewFromInt(c.short)) {
			t.Errorf("%s: short %s, want %d", name, got, c.short)
		}
	}
}
