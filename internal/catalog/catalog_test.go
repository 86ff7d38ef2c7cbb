package catalog_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

// TestItemsAreFoundAsAPersonWouldFindThem compares the search with reading the whole
// list: an item is found when its SKU opens with the text, when every word of the text
// opens a word of its SKU or description, or when one of its packs has the GTIN.
func TestItemsAreFoundAsAPersonWouldFindThem(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	r := rand.New(rand.NewPCG(2, 6))
	words := []string{"lamp", "lantern", "cable", "cab", "black", "blue", "5", "50", "cloth", "x_ray", "100%",
		"O'Brien", "Größe", "a|b"}
	type thing struct{ sku, description string }
	var all []thing
	for i := range 120 {
		d := strings.Join([]string{words[r.IntN(len(words))], words[r.IntN(len(words))], words[r.IntN(len(words))]},
			" ")
		all = append(all, thing{fmt.Sprintf("%c%c-%03d", 'A'+rune(r.IntN(3)), 'A'+rune(r.IntN(3)), i), d})
		if _, err := h.Owner.Exec(`INSERT INTO items (sku, description) VALUES ($1, $2)`, all[i].sku, d); err != nil {
			t.Fatal(err)
		}
	}
	breaks := func(r rune) bool { return strings.ContainsRune(" -|'%_", r) }
	opens := func(text string, x thing) bool {
		if strings.HasPrefix(strings.ToUpper(x.sku), strings.ToUpper(text)) {
			return true
		}
		asked := strings.FieldsFunc(text, breaks)
		for _, a := range asked {
			if !slices.ContainsFunc(strings.FieldsFunc(x.sku+" "+x.description, breaks), func(w string) bool {
				return strings.HasPrefix(strings.ToLower(w), strings.ToLower(a))
			}) {
				return false
			}
		}
		return len(asked) > 0
	}
	for _, text := range []string{"lan", "lamp", "cab", "blue cl", "LANTERN", "größe", "AB", "ab-0", "c", "nothing",
		"5", "brien", "cloth black lamp", "%", "_", "A%"} {
		found, err := catalog.FindItems(context.Background(), h.App, text, 500)
		if err != nil {
			t.Fatalf("%q: %v", text, err)
		}
		got := map[string]bool{}
		for _, f := range found {
			got[f.SKU] = true
		}
		for _, x := range all {
			if want := opens(text, x); want != got[x.sku] {
				t.Errorf("%q finds %s (%s): %v, and a person would say %v", text, x.sku, x.description, got[x.sku],
					want)
			}
		}
	}
	for gtin, sku := range map[string]string{"9521234000013": "HC-050", "09521234000020": "HC-050",
		"9521234000037": "HZ-500"} {
		found, err := catalog.FindItems(context.Background(), h.App, gtin, 5)
		if err != nil || len(found) != 1 || found[0].SKU != sku {
			t.Errorf("GTIN %s finds %v (%v)", gtin, found, err)
		}
	}
}

// TestBinsAreReadWithAllTheyHold compares the reading behind putaway with the moves.
func TestBinsAreReadWithAllTheyHold(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	r := rand.New(rand.NewPCG(4, 4))
	lot := h.Lot(t, world.Fluid, "L1", 90)
	type pile struct{ bin, item, lot string }
	due := map[pile]int64{}
	for range 40 {
		code := fmt.Sprintf("%c-%02d-1-A", 'A'+rune(r.IntN(2)), 1+r.IntN(4))
		n := int64(1 + r.IntN(5))
		if r.IntN(2) == 0 {
			h.Stock(t, world.Clamp, h.Bin(t, code), n)
			due[pile{code, "HC-050", ""}] += n
		} else {
			h.StockLot(t, world.Fluid, lot, h.Bin(t, code), n)
			due[pile{code, "HZ-500", "L1"}] += n
		}
	}
	ctx := context.Background()
	dock, err := catalog.OneLocation(ctx, h.App, world.Site, "dock")
	if err != nil {
		t.Fatal(err)
	}
	bins, err := catalog.Bins(ctx, h.App, world.Site, dock, nil)
	if err != nil || len(bins) != 8 {
		t.Fatalf("%d bins, %v", len(bins), err)
	}
	for _, b := range bins {
		if b.MaxUnits == nil || !b.MaxUnits.Equal(decimal.NewFromInt(24)) || b.WalkM <= 0 ||
			strings.HasPrefix(b.Code, "B") != (len(b.Accepts) == 1) {
			t.Errorf("%s is read as %+v", b.Code, b)
		}
		for _, x := range b.Holds {
			p := pile{b.Code, x.Item, x.Lot}
			if !x.Quantity.Equal(decimal.NewFromInt(due[p])) {
				t.Errorf("%+v holds %s, and %d were brought", p, x.Quantity, due[p])
			}
			delete(due, p)
		}
	}
	if len(due) > 0 {
		t.Errorf("not read: %v", due)
	}
	one, err := catalog.Bins(ctx, h.App, world.Site, dock, []int32{bins[3].ID})
	if err != nil || len(one) != 1 || fmt.Sprint(one[0]) != fmt.Sprint(bins[3]) {
		t.Errorf("one bin alone is read as %v, among all as %v (%v)", one, bins[3], err)
	}
}

func TestALotKeepsItsExpiry(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	ctx := context.Background()
	fluid, err := catalog.ItemByID(ctx, h.App, world.Fluid)
	if err != nil {
		t.Fatal(err)
	}
	today := time.Now().UTC().Truncate(24 * time.Hour)
	day := func(n int) *time.Time { d := today.AddDate(0, 0, n); return &d }
	ensure := func(expires *time.Time, on time.Time) (int64, error) {
		ids, err := catalog.EnsureLots(ctx, h.App, []catalog.Lot{{Field: "l", Item: fluid, Code: "K-7", Expires: expires}}, on)
		if err != nil {
			return 0, err
		}
		return ids[0], nil
	}
	first, err := ensure(day(30), today)
	if err != nil {
		t.Fatal(err)
	}
	for _, expires := range []*time.Time{day(30), nil} {
		again, err := ensure(expires, today.AddDate(0, 0, 5))
		if err != nil || again != first {
			t.Errorf("the lot became %d, then %d (%v)", first, again, err)
		}
	}
	_, err = ensure(day(31), today)
	world.Refused(t, err, "expiry_differs", day(30).Format(time.DateOnly), day(31).Format(time.DateOnly))
}
