package forecast

import (
	"cmp"
	"slices"
)

// Help is what would make a collection that is missed, or make it sooner.
type Help struct {
	// OneMore is the collection with one more picker from now on.
	OneMore Ready `json:"one_more"`
	// ReleaseNow is the collection if nothing waits for its release; Waits is false where
	// nothing of it does.
	ReleaseNow Ready `json:"release_now"`
	Waits      bool  `json:"waits"`
	// Leave are the fewest orders found without which it is made, all of them of this
	// collection and not begun; none where that does not help. Left is the collection then.
	Leave []int64 `json:"leave"`
	Left  Ready   `json:"left"`
}

// Help works out what would help a collection.
func (h House) Help(collection int) Help {
	var out Help
	more := h
	more.Walkers = max(1, h.Walkers) + 1
	out.OneMore = more.Run()[collection]
	now := h
	now.Rounds = slices.Clone(h.Rounds)
	for i := range now.Rounds {
		if now.Rounds[i].From > 0 && h.first(now.Rounds[i]) <= collection {
			now.Rounds[i].From, out.Waits = 0, true
		}
	}
	out.ReleaseNow = now.Run()[collection]
	out.Leave, out.Left = h.leave(collection)
	return out
}

// leave finds orders to leave for later: those of the most work first, until the collection
// is made, and then each is taken back without which it is made all the same.
func (h House) leave(collection int) ([]int64, Ready) {
	ready := h.Run()[collection]
	if ready.Made() {
		return nil, ready
	}
	var left []int64
	for _, order := range h.notBegun(collection) {
		left = append(left, order)
		if ready = h.without(left).Run()[collection]; ready.Made() {
			break
		}
	}
	if !ready.Made() {
		return nil, ready
	}
	for i := 0; i < len(left); {
		fewer := slices.Delete(slices.Clone(left), i, i+1)
		if r := h.without(fewer).Run()[collection]; r.Made() {
			left, ready = fewer, r
			continue
		}
		i++
	}
	return left, ready
}

// notBegun are the orders of a collection of which all that is left waits for somebody who
// is free, those of the most work first.
func (h House) notBegun(collection int) []int64 {
	work, begun := map[int64]float64{}, map[int64]bool{}
	for order := range h.AtBench {
		begun[order] = true
	}
	for order := range h.Packed {
		begun[order] = true
	}
	for _, r := range h.Rounds {
		for _, p := range r.Parts {
			work[p.Order] += p.Minutes + float64(p.Cartons)*(h.Pack+h.Load)
			begun[p.Order] = begun[p.Order] || r.Walker != Nobody
		}
	}
	var out []int64
	for order := range work {
		if !begun[order] && h.Of[order] == collection {
			out = append(out, order)
		}
	}
	slices.SortFunc(out, func(a, b int64) int { return cmp.Or(cmp.Compare(work[b], work[a]), cmp.Compare(a, b)) })
	return out
}

// without is the house if these orders are left for later; a round with nothing else on it
// is not walked.
func (h House) without(orders []int64) House {
	out := h
	out.Rounds = nil
	for _, r := range h.Rounds {
		r.Parts = slices.DeleteFunc(slices.Clone(r.Parts), func(p Part) bool { return slices.Contains(orders, p.Order) })
		if len(r.Parts) > 0 {
			out.Rounds = append(out.Rounds, r)
		}
	}
	return out
}
