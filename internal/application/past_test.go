package application_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"net/url"
	"testing"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

// TestThePastIsAReplay moves goods between bins, conditions and the world at random and notes what stands after each;
// any past instant says the same then, bin by bin and lot by lot, and on the plan.
func TestThePastIsAReplay(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	r := rand.New(rand.NewPCG(15, 6))
	bins := []int32{h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A"), h.Bin(t, "B-01-1-A")}
	lots := []*int64{h.Lot(t, world.Fluid, "P-1", 90), h.Lot(t, world.Fluid, "P-2", 90)}
	lead.Blunt = true
	lead.Get("/floor/past?site=1&at="+url.QueryEscape(time.Now().Format(time.RFC3339))).Refused(422, "day_past", "at", "nothing has moved yet")
	type key struct {
		bin int32
		lot int
	}
	stands := map[key]int{}
	type instant struct {
		at     time.Time
		stands map[key]int
	}
	var all []instant
	for i := range 40 {
		k, n := key{bins[r.IntN(3)], r.IntN(2)}, 1+r.IntN(4)
		move := ledger.Move{Item: world.Fluid, Lot: lots[k.lot], Quantity: decimal.NewFromInt(int64(n)), To: k.bin, From: 1}
		if other := (key{bins[r.IntN(3)], k.lot}); other.bin != k.bin && stands[other] >= n {
			move.From = other.bin
			stands[other] -= n
		}
		if err := h.Post(move); err != nil {
			t.Fatal(err)
		}
		stands[k] += n
		was := map[key]int{}
		for k, n := range stands {
			was[k] = n
		}
		all = append(all, instant{time.Now(), was})
		talliesRight(t, h, r)
		// Some of these instants are read from a snapshot before them, some from one after, and some from now.
		if i == 11 || i == 27 {
			if done, err := ledger.Snapshot(context.Background(), h.App, 5, 0); err != nil || !done {
				t.Fatalf("no snapshot: %v %v", done, err)
			}
		}
	}
	if done, err := ledger.Snapshot(context.Background(), h.App, 500, 0); err != nil || done {
		t.Errorf("a snapshot with few moves since the last: %v %v", done, err)
	}
	for _, x := range all {
		then := url.QueryEscape(x.at.Format(time.RFC3339Nano))
		units := map[string]int{}
		for _, bin := range bins {
			got := map[string]string{}
			for _, s := range lead.Get(fmt.Sprintf("/holdings/past?of=location&id=%d&at=%s", bin, then)).JSON()["rows"].([]any) {
				got[at(s, "lot").(string)] = at(s, "quantity").(string)
			}
			sum := 0
			for i, code := range []string{"P-1", "P-2"} {
				want := x.stands[key{bin, i}]
				if sum += want; want == 0 && got[code] != "" || want > 0 && got[code] != fmt.Sprint(want) {
					t.Fatalf("of %s stood %q in %d, and by counting %d", code, got[code], bin, want)
				}
			}
			units[fmt.Sprint(bin)] = sum
		}
		for i, lot := range lots {
			whole := 0
			for _, bin := range bins {
				whole += x.stands[key{bin, i}]
			}
			of := lead.Get(fmt.Sprintf("/holdings/past?of=lot&id=%d&at=%s&limit=2", *lot, then)).JSON()
			if got := number(t, at(of, "sums", "quantity")); got != float64(whole) {
				t.Fatalf("of lot %d stood %v, and by counting %d", i, got, whole)
			}
		}
		for _, b := range lead.Get("/floor/past?site=1&at=" + then).JSON()["bins"].([]any) {
			if want, mine := units[fmt.Sprint(at(b, "id"))]; mine && at(b, "units") != fmt.Sprint(want) {
				t.Fatalf("on the plan %v held %v, and by counting %d", at(b, "code"), at(b, "units"), want)
			}
		}
	}
	lead.Get("/floor/past?site=1&at="+url.QueryEscape(time.Now().AddDate(0, 0, 1).Format(time.RFC3339))).Refused(422, "day_far", "at")
}

// talliesRight fails the test unless how often goods moved is what moves say, of everything now, and of one cell as a
// move there had left it.
func talliesRight(t *testing.T, h *world.House, r *rand.Rand) {
	t.Helper()
	const ends = `
		SELECT m.id, e.location_id, m.item_id, p.kind FROM moves m JOIN postings p ON p.id = m.posting_id,
		       LATERAL (SELECT m.from_location AS location_id UNION SELECT m.to_location) AS e JOIN locations l ON l.id = e.location_id
		 WHERE l.real AND p.kind NOT IN ('count', 'hold', 'release')`
	var off []string
	if err := h.Owner.Select(&off, `
		WITH naive AS (SELECT location_id, item_id, kind, count(*) AS n FROM (`+ends+`) AS e GROUP BY 1, 2, 3),
		     kept AS (SELECT location_id, item_id, kind, sum(moves) AS n FROM moved GROUP BY 1, 2, 3)
		SELECT concat_ws(' ', location_id, item_id, kind, 'by moves', a.n, 'tallied', b.n)
		  FROM naive a FULL JOIN kept b USING (location_id, item_id, kind) WHERE a.n IS DISTINCT FROM b.n`); err != nil || len(off) > 0 {
		t.Fatalf("tallies: %v %v", off, err)
	}
	if err := h.Owner.Select(&off, `
		WITH one AS (SELECT * FROM (`+ends+`) AS e OFFSET $1 LIMIT 1)
		SELECT concat_ws(' ', o.location_id, o.id, moved_by(o.location_id, o.item_id, o.id)) FROM one o
		 WHERE (SELECT coalesce(sum(value::int), 0) FROM jsonb_each_text(moved_by(o.location_id, o.item_id, o.id)))
		       <> (SELECT count(*) FROM (`+ends+`) AS e WHERE e.location_id = o.location_id AND e.item_id = o.item_id AND e.id <= o.id)`,
		r.IntN(20)); err != nil || len(off) > 0 {
		t.Fatalf("tallies as of a move: %v %v", off, err)
	}
}

// TestWhatRoundsStillHadToPickIsKnown reads a bin as it stood while a round was released, half picked and over.
func TestWhatRoundsStillHadToPickIsKnown(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	o := sellNow(lead, world.Clamp, "5")
	r, rp := roundFor(lead, picker, id(o, "id"))
	released := time.Now()
	sscc, _ := blank(lead, picker, rp, id(o, "id"))
	stop := at(r, "stops", 0)
	take := func(n string) {
		picker.Post(rp+"/pick", object{"stop_id": at(stop, "id"), "bin": at(stop, "bin"), "item": at(stop, "sku"), "carton": sscc,
			"quantity": n}).JSON()
	}
	take("2")
	half := time.Now()
	take("3")
	over := time.Now()
	for _, x := range []struct {
		at       time.Time
		quantity string
		rounds   string
	}{{released, "9", "5"}, {half, "7", "3"}, {over, "4", "0"}} {
		page := lead.Get(fmt.Sprintf("/holdings/past?of=item&id=%d&site=1&at=%s", world.Clamp, url.QueryEscape(x.at.Format(time.RFC3339Nano)))).JSON()
		for _, row := range page["rows"].([]any) {
			if at(row, "location") == "A-01-1-A" && (at(row, "quantity") != x.quantity || at(row, "on_rounds") != x.rounds) {
				t.Errorf("at %s: %v", x.at, row)
			}
		}
	}
}

// TestTwoInstantsAreComparedByTheirMoves makes random moves and compares pairs of instants among them: before and after
// are as they were, and what the kinds of moves did adds up to what changed, item by item, bin by bin and goods by
// goods.
func TestTwoInstantsAreComparedByTheirMoves(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	lead.Blunt = true
	r := rand.New(rand.NewPCG(28, 11))
	bins := []int32{h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A"), h.Bin(t, "B-01-1-A")}
	var instants []time.Time
	h.Stock(t, world.Clamp, bins[0], 50)
	h.Stock(t, world.Heavy, bins[1], 50)
	for range 30 {
		instants = append(instants, time.Now())
		item := []int32{world.Clamp, world.Heavy}[r.IntN(2)]
		from, to := bins[r.IntN(3)], bins[r.IntN(3)]
		move := ledger.Move{Item: item, From: from, To: to, Quantity: decimal.NewFromInt(1 + r.Int64N(9))}
		if r.IntN(4) == 0 {
			move.From = 1
		}
		if move.From != move.To {
			// What is not there is refused, and changes nothing.
			_ = h.Post(move)
		}
	}
	instants = append(instants, time.Now())
	if _, err := ledger.Snapshot(context.Background(), h.App, 5, 0); err != nil {
		t.Fatal(err)
	}
	stood := func(at time.Time, column string) map[string]string {
		out := map[string]string{}
		rows, err := h.Owner.Query(`
			SELECT e.`+column+`::text, trim_scale(sum(e.delta))::text FROM move_ends e JOIN moves m ON m.id = e.move_id
			  JOIN postings p ON p.id = m.posting_id WHERE p.entered_at <= $1 GROUP BY 1`, at)
		if err != nil {
			t.Fatal(err)
		}
		defer rows.Close()
		for rows.Next() {
			var key, quantity string
			if err := rows.Scan(&key, &quantity); err != nil {
				t.Fatal(err)
			}
			out[key] = quantity
		}
		return out
	}
	zero := func(s string) string {
		if s == "" {
			return "0"
		}
		return s
	}
	for range 12 {
		i := r.IntN(len(instants) - 1)
		j := i + 1 + r.IntN(len(instants)-i-1)
		from, to := instants[i], instants[j]
		for by, column := range map[string]string{"item": "item_id", "bin": "location_id", "goods": ""} {
			asked := fmt.Sprintf("/stock/compare?site=1&by=%s&from=%s&to=%s", by, url.QueryEscape(from.Format(time.RFC3339Nano)),
				url.QueryEscape(to.Format(time.RFC3339Nano)))
			for _, row := range lead.Get(asked).JSON()["rows"].([]any) {
				sum := decimal.Zero
				for _, k := range at(row, "by").([]any) {
					sum = sum.Add(decimal.RequireFromString(at(k, "quantity").(string)))
				}
				if sum.String() != at(row, "changed") {
					t.Fatalf("the kinds of moves come to %s in %v", sum, row)
				}
				if column == "" {
					continue
				}
				key := fmt.Sprint(at(row, column))
				if before, after := zero(stood(from, column)[key]), zero(stood(to, column)[key]); at(row, "before") != before || at(row, "after") != after {
					t.Fatalf("%s %s was %s and then %s, and is told as %v", by, key, before, after, row)
				}
			}
		}
	}
	lead.Get("/stock/compare?site=1&from=2001-01-01T00:00:00Z").Refused(422, "day_past", "from")
	late := url.QueryEscape(instants[20].Format(time.RFC3339Nano))
	lead.Get("/stock/compare?site=1&from="+late+"&to="+url.QueryEscape(instants[2].Format(time.RFC3339Nano))).Refused(422, "day_past", "to", "earlier instant first")
}
