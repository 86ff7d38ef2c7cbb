package application_test

import (
	"fmt"
	"math/rand/v2"
	"net/url"
	"testing"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

// TestThePastIsAReplay moves goods between bins, conditions and the world at random and notes what stands after each; any past instant
// says the same then, bin by bin and lot by lot, and on the plan.
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
	for range 40 {
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
	}
	for _, x := range all {
		then := url.QueryEscape(x.at.Format(time.RFC3339Nano))
		units := map[string]int{}
		for _, bin := range bins {
			got := map[string]string{}
			for _, s := range lead.Get(fmt.Sprintf("/locations/%d/past?at=%s", bin, then)).JSONs() {
				got[s["lot"].(string)] = s["quantity"].(string)
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
		for _, b := range lead.Get("/floor/past?site=1&at=" + then).JSON()["bins"].([]any) {
			if want, mine := units[fmt.Sprint(at(b, "id"))]; mine && at(b, "units") != fmt.Sprint(want) {
				t.Fatalf("on the plan %v held %v, and by counting %d", at(b, "code"), at(b, "units"), want)
			}
		}
	}
	lead.Get("/floor/past?site=1&at="+url.QueryEscape(time.Now().AddDate(0, 0, 1).Format(time.RFC3339))).Refused(422, "day_far", "at")
}
