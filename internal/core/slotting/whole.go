package slotting

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"lanternrow/internal/core/refusal"
)

// Together tests whether a bin takes several goods as one, such as all that stands on
// a pallet, and refuses it with what it cannot take.
func Together(field string, b Bin, goods []Goods) error {
	for _, g := range goods {
		if takes, why := b.Capacity(g); takes.LessThan(g.Quantity) {
			return refusal.New(refusal.BinFull, field,
				"%s can take %s of %s, not the %s that stand on it: %s. Choose another bin, or put away its goods "+
					"one by one.",
				b.Code, takes, g.Item, g.Quantity, why).With("bin", b.Code).With("takes", takes)
		}
		b = b.add(g, g.Quantity)
	}
	return nil
}

// ProposeTogether ranks the bins that take several goods as one, the best first: by the
// points each of the goods alone would give the bin, of which the bin itself counts
// once. At most so many are returned.
func ProposeTogether(goods []Goods, bins []Bin, most int) []Location {
	out := []Location{}
	for _, b := range bins {
		if b.Away || Together("", b, goods) != nil {
			continue
		}
		whole := Location{Bin: b.Code, Parts: map[string]float64{}, Points: perBin + b.WalkM}
		said := map[string]bool{}
		for _, g := range goods {
			p := b.score(g)
			whole.Quantity, whole.Takes = whole.Quantity.Add(g.Quantity), whole.Takes.Add(g.Quantity)
			for name, points := range p.Parts {
				if name == "bin" || name == "walk" {
					whole.Parts[name] = points
				} else {
					whole.Parts[name] += points
					whole.Points += points
				}
			}
			for _, why := range p.Why {
				if !said[why] {
					said[why] = true
					whole.Why = append(whole.Why, why)
				}
			}
		}
		whole.Points = math.Max(0.1, math.Round(whole.Points*10)/10)
		out = append(out, whole)
	}
	sort.SliceStable(out, func(i, j int) bool {
		return out[i].Points < out[j].Points || out[i].Points == out[j].Points && out[i].Bin < out[j].Bin
	})
	return out[:min(most, len(out))]
}

// Barred says in words why bins take none of the goods: how many by each kind of
// reason.
func Barred(g Goods, bins []Bin) string {
	zone, mixing, full := 0, 0, 0
	for _, b := range bins {
		if takes, why := b.capacity(g, false); takes.IsPositive() {
			continue
		} else if g.Handling != "" && !slices.Contains(b.Accepts, g.Handling) {
			zone++
		} else if why == "full" {
			full++
		} else {
			mixing++
		}
	}
	var words []string
	for _, r := range []struct {
		n    int
		what string
	}{{zone, "are in zones that do not take " + g.Handling + " goods"}, {full, "have no room left for one"}, {mixing,
		"hold goods that these may not be mixed with"}} {
		if r.n > 0 {
			words = append(words, fmt.Sprintf("%d %s", r.n, r.what))
		}
	}
	if len(words) == 1 {
		return "All " + words[0] + "."
	}
	return fmt.Sprintf("Of %d bins, %s.", len(bins), strings.Join(words, ", "))
}
