package demo

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"lanternrow/internal/core/counting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/station/audit"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/station/pick"

	"github.com/shopspring/decimal"
)

// weeksBack is how many days ago the story begins.
const weeksBack = 42

// yard is the smallest site.
const yard = 3

// weeks are those before the last: a quieter pace, at all three sites. They draw from a stream of their own, so that
// the last week is what it is.
func (s *story) weeks(today time.Time) {
	last := s.rand
	s.rand = rand.New(rand.NewPCG(seed, 42))
	for back := weeksBack; back > 7 && s.err == nil; back-- {
		day := today.AddDate(0, 0, -back)
		// Two days of seven are off; which they are in the calendar changes no story.
		if back != weeksBack && (back%7 == 0 || back%7 == 6) {
			continue
		}
		s.weekday(day, back)
		fmt.Fprintf(s.say, "  %s told\n", day.Format(time.DateOnly))
	}
	s.rand = last
}

// weekday is a day of those weeks: goods come in and go out, some bins are counted; twice a week one of the other sites
// has its day.
func (s *story) weekday(day time.Time, back int) {
	s.clock = day.Add(7 * time.Hour)
	s.labels(8)
	for i := range suppliers {
		if back == weeksBack || (i+back)%5 == 0 {
			order := s.buy(int32(i+1), day, back == weeksBack)
			s.arrive(order, 1, int32(i%2))
			s.owe(order)
		}
	}
	s.printLabels()
	s.inspect()
	s.putAwayAll(1)
	s.clock = day.Add(10 * time.Hour)
	s.sells(day, 3)
	s.clock = day.Add(13 * time.Hour)
	s.suppliersInvoices()
	s.clock = day.Add(14 * time.Hour)
	s.counts(6)
	if other := map[int]int32{4: loft, 2: yard}[back%7]; other != 0 {
		s.at = other
		s.clock = day.Add(15 * time.Hour)
		s.elsewhere(day, back)
		s.at = site
	}
}

// sells takes a few orders, which go the same day.
func (s *story) sells(day time.Time, n int) {
	var ids []int64
	for range n {
		ids = append(ids, s.sell(day, true).ID)
	}
	s.fulfil(ids, []string{"picker", "picker2"}[ids[0]%2])
}

// elsewhere is a day at a small site.
func (s *story) elsewhere(day time.Time, back int) {
	s.labels(3)
	for i := range suppliers {
		n := int32(i + back)
		if supplier := suppliers[int(n)%len(suppliers)].code; slices.ContainsFunc(goods, func(g item) bool { return g.supplier == supplier && s.goesHere(g) }) {
			s.arrive(s.buy(n%int32(len(suppliers))+1, day, false), 1, 0)
			break
		}
	}
	s.printLabels()
	s.putAwayAll(1)
	if o := s.sellHeld(day); o.ID != 0 {
		s.fulfil([]int64{o.ID}, "picker2")
	}
	s.counts(2)
}

// sellHeld takes an order for some of what lies at a small site.
func (s *story) sellHeld(day time.Time) (o orders.Order) {
	var items []int32
	if s.err == nil {
		s.err = s.db.SelectContext(s.ctx, &items, `
			SELECT b.item_id FROM balances b JOIN locations p ON p.id = b.location_id
			 WHERE p.site_id = $1 AND p.kind = 'bin' GROUP BY 1 HAVING sum(b.quantity - b.reserved) >= 3 ORDER BY 1`, s.at)
	}
	if s.err != nil || len(items) == 0 {
		return o
	}
	in := orders.NewOrder{CustomerID: s.customer(s.rand.IntN(len(customers))), SiteID: s.at, Release: true,
		Terms: orders.Terms{WantedOn: day.Format(time.DateOnly), Sure: refusal.Sure{refusal.DayPast}}}
	for range min(3, len(items)) {
		i := s.rand.IntN(len(items))
		in.Lines = append(in.Lines, orders.NewLine{ItemID: items[i], Quantity: fmt.Sprint(1 + s.rand.IntN(2))})
		items = slices.Delete(items, i, i+1)
	}
	return as(s, "office", func(ctx context.Context, tx *command.Tx) (orders.Order, error) { return orders.Create(ctx, tx, in) })
}

// counters are those who count, in turn.
var counters = []string{"picker", "receiver", "picker2", "lead"}

// reasons are why differences are accepted.
var reasons = []string{"one lay behind the beam", "a box was booked twice", "taken for a show and not scanned", "broken, and thrown away",
	"it lay one bin further"}

// place is an item in a bin.
type place struct {
	Location int32 `db:"location_id"`
	Item     int32 `db:"item_id"`
}

// counts has some bins counted, most of them where goods moved last. Of ten one differs: others count it again, and the
// lead settles it.
func (s *story) counts(n int) {
	var cells []place
	if s.err == nil {
		s.err = s.db.SelectContext(s.ctx, &cells, `
			SELECT b.location_id, b.item_id FROM balances b JOIN locations p ON p.id = b.location_id JOIN items i ON i.id = b.item_id
			 WHERE p.site_id = $1 AND p.kind = 'bin' AND b.condition = 'good' AND b.carton_id IS NULL AND i.tracking <> 'serial'
			   AND NOT EXISTS (SELECT FROM counts c WHERE c.location_id = b.location_id AND c.item_id = b.item_id AND c.state <> 'settled')
			 GROUP BY b.location_id, b.item_id HAVING sum(b.reserved) = 0 ORDER BY b.location_id, b.item_id`, s.at)
	}
	for range min(n, len(cells)) {
		i := s.rand.IntN(len(cells))
		s.count(cells[i].Location, cells[i].Item)
		cells = slices.Delete(cells, i, i+1)
	}
}

// count counts an item in a bin until it is settled.
func (s *story) count(location, item int32) {
	off := int64(0)
	if s.rand.IntN(10) == 0 {
		off = []int64{-1, -1, -2, 1}[s.rand.IntN(4)]
	}
	first := s.rand.IntN(len(counters))
	for turn := range 3 {
		done := s.confirm(counters[(first+turn)%len(counters)], location, item, off, 0)
		if done.Verdict == counting.Decide {
			decision := audit.Decision{Reason: reasons[s.rand.IntN(len(reasons))]}
			as(s, "lead", func(ctx context.Context, tx *command.Tx) (audit.Done, error) {
				return audit.Settle(ctx, tx, done.ID, decision, pick.Replan)
			})
		}
		if done.Verdict != counting.Again {
			return
		}
	}
}

// lies is what is found of an item in a bin: what should be there, but for so many of its first lot.
func (s *story) lies(ctx context.Context, tx *command.Tx, location, item int32, off int64) (found []audit.Counted, since int64, err error) {
	var rows []struct {
		Lot      *int64 `db:"lot_id"`
		Quantity decimal.Decimal
	}
	if err := tx.SelectContext(ctx, &rows, `
		SELECT lot_id, sum(quantity) AS quantity FROM balances
		 WHERE location_id = $1 AND item_id = $2 AND condition = 'good' AND carton_id IS NULL GROUP BY 1 ORDER BY 1`, location, item); err != nil {
		return nil, 0, fmt.Errorf("looking into a bin: %w", err)
	}
	for i, r := range rows {
		n := r.Quantity
		if i == 0 {
			n = decimal.Max(decimal.Zero, n.Add(decimal.NewFromInt(off)))
		}
		found = append(found, audit.Counted{LotID: r.Lot, Quantity: n.String()})
	}
	err = tx.GetContext(ctx, &since, `
		SELECT max(id) FROM moves WHERE item_id = $2 AND $1 IN (from_location, to_location)`, location, item)
	return found, since, err
}

// counting leaves a count sheet of the fluids half done, a count that another person makes again, and one that waits
// for a lead.
func (s *story) counting() {
	sheet := as(s, "lead", func(ctx context.Context, tx *command.Tx) (audit.Sheet, error) {
		return audit.Open(ctx, tx, audit.Wanted{SiteID: site, Scope: audit.ByZone, Zone: "C", Teams: 2})
	})
	var lines []place
	if s.err == nil {
		s.err = s.db.SelectContext(s.ctx, &lines, `
			SELECT l.location_id, l.item_id FROM count_sheet_lines l JOIN items i ON i.id = l.item_id
			 WHERE l.sheet_id = $1 AND i.tracking <> 'serial' AND NOT EXISTS (
			       SELECT FROM balances b WHERE b.location_id = l.location_id AND b.item_id = l.item_id AND b.carton_id IS NOT NULL)
			 ORDER BY l.team, l.place LIMIT 12`, sheet.ID)
	}
	for _, l := range lines {
		s.confirm("picker2", l.Location, l.Item, 0, sheet.ID)
	}
	var cells []place
	if s.err == nil {
		s.err = s.db.SelectContext(s.ctx, &cells, `
			SELECT b.location_id, b.item_id FROM balances b JOIN locations p ON p.id = b.location_id JOIN items i ON i.id = b.item_id
			 WHERE p.site_id = $1 AND p.code LIKE 'E-%' AND i.tracking = 'none' AND b.condition = 'good' AND b.carton_id IS NULL
			 GROUP BY 1, 2 HAVING sum(b.reserved) = 0 AND sum(b.quantity) BETWEEN 8 AND 40 ORDER BY 1, 2 LIMIT 2`, site)
	}
	for i, c := range cells {
		s.confirm("receiver", c.Location, c.Item, -3, 0)
		if i == 0 {
			s.confirm("picker2", c.Location, c.Item, -3, 0)
		}
	}
}

// confirm has one person count an item in a bin, so many off, on a sheet or on its own.
func (s *story) confirm(login string, location, item int32, off, sheet int64) audit.Done {
	return as(s, login, func(ctx context.Context, tx *command.Tx) (audit.Done, error) {
		found, since, err := s.lies(ctx, tx, location, item, off)
		if err != nil {
			return audit.Done{}, err
		}
		return audit.Confirm(ctx, tx, audit.Count{LocationID: location, ItemID: item, Since: since, How: "hand", Sheet: sheet, Kinds: found})
	})
}
