package ledger_test

import (
	"cmp"
	"context"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/test/world"
)

// noted is a move as a clerk with a notebook would write it down.
type noted struct {
	id                           int64
	at                           time.Time
	kind, document, note, person string
	sku, lot, from, to           string
	quantity                     int64
}

// TestHistoryIsNarrowedAsANotebookIs makes random moves over weeks, keeps a notebook beside
// them, and reads history in many ways, in pages of random length.
func TestHistoryIsNarrowedAsANotebookIs(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	if _, err := h.Owner.Exec(`UPDATE sites SET timezone = 'Europe/Lisbon' WHERE id = $1`, world.Site); err != nil {
		t.Fatal(err)
	}
	r := rand.New(rand.NewPCG(28, 11))
	notebook := fill(t, h, r)
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	day := func(n noted) string { return n.at.In(lisbon).Format(time.DateOnly) }
	minute := func(n noted) string { return n.at.In(lisbon).Format("2006-01-02T15:04") }
	pick := func() noted { return notebook[r.IntN(len(notebook))] }
	ways := []func() (ledger.Filter, func(noted) bool){
		func() (ledger.Filter, func(noted) bool) { return ledger.Filter{}, func(noted) bool { return true } },
		func() (ledger.Filter, func(noted) bool) {
			n := pick()
			return ledger.Filter{Kind: n.kind, Person: "ME PICK"}, func(x noted) bool { return x.kind == n.kind && x.person == "picker" }
		},
		func() (ledger.Filter, func(noted) bool) {
			from, to := day(pick()), day(pick())
			return ledger.Filter{From: from, To: to}, func(x noted) bool { return day(x) >= from && day(x) <= to }
		},
		func() (ledger.Filter, func(noted) bool) {
			from, to := minute(pick()), minute(pick())
			return ledger.Filter{From: from, To: to}, func(x noted) bool { return minute(x) >= from && minute(x) <= to }
		},
		func() (ledger.Filter, func(noted) bool) {
			n := pick()
			return ledger.Filter{Bin: strings.ToLower(n.from[:1]), SKU: n.sku[:2]}, func(x noted) bool {
				return (x.from[0] == n.from[0] || x.to[0] == n.from[0]) && x.sku[:2] == n.sku[:2]
			}
		},
		func() (ledger.Filter, func(noted) bool) {
			n := pick()
			return ledger.Filter{Document: strings.ToLower(n.document), Note: "50% off_"}, func(x noted) bool {
				return strings.HasPrefix(x.document, n.document) && strings.Contains(x.note, "50% off_")
			}
		},
		func() (ledger.Filter, func(noted) bool) {
			return ledger.Filter{Tracked: "l1"}, func(x noted) bool { return x.lot == "L1" }
		},
	}
	orders := map[string]func(a, b noted) int{
		"at":       func(noted, noted) int { return 0 },
		"quantity": func(a, b noted) int { return cmp.Compare(a.quantity, b.quantity) },
		"document": func(a, b noted) int { return cmp.Compare(a.document, b.document) },
	}
	for range 60 {
		f, keeps := ways[r.IntN(len(ways))]()
		for name, compare := range orders {
			var want []int64
			rows := slices.DeleteFunc(slices.Clone(notebook), func(n noted) bool { return !keeps(n) })
			slices.SortStableFunc(rows, func(a, b noted) int { return cmp.Or(compare(a, b), cmp.Compare(a.id, b.id)) })
			for _, n := range rows {
				want = append(want, n.id)
			}
			down := r.IntN(2) == 0
			if down {
				slices.Reverse(want)
			}
			if got := readHistory(t, h, r, f, name, down); !slices.Equal(got, want) {
				t.Fatalf("%+v by %s reads %v, and written down is %v", f, name, got, want)
			}
		}
		// An item's trail has the same filters.
		var ends []int64
		for _, n := range notebook {
			if keeps(n) && n.sku == "HC-050" {
				ends = append(ends, n.id)
			}
		}
		var trail []int64
		for _, l := range readTrail(t, h, r, ledger.Question{Item: world.Clamp, Site: world.Site, Filter: f}) {
			trail = append(trail, l.MoveID)
		}
		slices.Reverse(trail)
		if got := slices.Compact(trail); !slices.Equal(got, ends) {
			t.Fatalf("%+v: the trail has moves %v, and written down is %v", f, got, ends)
		}
	}
	_, err = ledger.History(context.Background(), h.App, world.Site, ledger.Filter{From: "31.12.2027"},
		documents.Sorting{Key: ledger.HistoryKeys["at"]}, 10)
	world.Refused(t, err, refusal.DateMalformed, "31.12.2027", "2027-12-31T14:00")
}

// fill stocks the house and makes moves there, some hours apart.
func fill(t *testing.T, h *world.House, r *rand.Rand) (out []noted) {
	t.Helper()
	clock := time.Date(2027, 3, 20, 6, 0, 0, 0, time.UTC)
	runner := &command.Runner{DB: h.Owner, Now: func() time.Time { return clock }, Backdate: true}
	at := map[string]int32{"SUP": world.SupplierLocation}
	bins := []string{"A-01-1-A", "B-01-1-A", "Z-01-1-A"}
	for _, code := range bins {
		at[code] = h.Bin(t, code)
	}
	items := map[string]int32{"HC-050": world.Clamp, "HZ-500": world.Fluid}
	lots := map[string]*int64{"L1": h.Lot(t, world.Fluid, "L1", 0)}
	post := func(n noted) {
		t.Helper()
		id, err := command.Do(world.As(n.person), runner, "", "note", nil, func(ctx context.Context, tx *command.Tx) (id int64, err error) {
			move := ledger.Move{Item: items[n.sku], Lot: lots[n.lot], Quantity: units(n.quantity), From: at[n.from], To: at[n.to]}
			head := ledger.Head{Kind: posting.Kind(n.kind), Document: n.document, Note: n.note}
			if _, err := ledger.Post(ctx, tx, head, []ledger.Move{move}); err != nil {
				return 0, err
			}
			return id, tx.GetContext(ctx, &id, `SELECT max(id) FROM moves`)
		})
		if err != nil {
			t.Fatal(err)
		}
		n.id, n.at = id, clock
		out = append(out, n)
	}
	for sku, lot := range map[string]string{"HC-050": "", "HZ-500": "L1"} {
		for _, code := range bins {
			post(noted{kind: "receive", person: "lead", sku: sku, lot: lot, from: "SUP", to: code, quantity: 500})
		}
	}
	// Of one site the other's stock is not its history.
	out = slices.DeleteFunc(out, func(n noted) bool { return n.to == "Z-01-1-A" })
	for i := range 80 {
		clock = clock.Add(time.Duration(r.IntN(20*60)) * time.Minute)
		a := r.IntN(3)
		n := noted{kind: []string{"move", "put_away", "count"}[r.IntN(3)], document: fmt.Sprintf("T-%d", r.IntN(4)),
			person: []string{"lead", "picker"}[r.IntN(2)], sku: "HC-050", from: bins[a], to: bins[(a+1+r.IntN(2))%3],
			quantity: int64(1 + r.IntN(5))}
		if i%3 == 0 {
			n.note = "sold 50% off_season"
		}
		if r.IntN(2) == 0 {
			n.sku, n.lot = "HZ-500", "L1"
		}
		post(n)
	}
	return out
}

// readHistory reads all of history that a filter leaves, in pages of a random length.
func readHistory(t *testing.T, h *world.House, r *rand.Rand, f ledger.Filter, sort string, down bool) (ids []int64) {
	t.Helper()
	for after := ""; ; {
		by, err := documents.SortBy(ledger.HistoryKeys, sort, down, after)
		if err != nil {
			t.Fatal(err)
		}
		page, err := ledger.History(context.Background(), h.App, world.Site, f, by, 1+r.IntN(40))
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range page.Lines {
			ids = append(ids, l.ID)
		}
		if after = page.Next; after == "" {
			return ids
		}
	}
}

// What can be asked for are the kinds that there are.
func TestHistoryCanBeNarrowedToEachKind(t *testing.T) {
	field, _ := reflect.TypeFor[ledger.Filter]().FieldByName("Kind")
	asked := strings.Split(field.Tag.Get("enum"), ",")
	kinds := []string{""}
	for k := range posting.Steps {
		kinds = append(kinds, string(k))
	}
	slices.Sort(asked)
	slices.Sort(kinds)
	if !slices.Equal(asked, kinds) {
		t.Errorf("it can be narrowed to %v, and there are %v", asked, kinds)
	}
}
