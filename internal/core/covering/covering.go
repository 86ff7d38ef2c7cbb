// Package covering chooses the cheapest set of containers that together hold a
// given amount: the minimum knapsack. Putaway asks it which bins to fill,
// allocation which bins to empty.
package covering

import (
	"math"
	"sort"
)

// A Choice is something of a size that can be had for a cost, both above zero.
type Choice struct {
	Size int64
	Cost int64
}

// tableLimit bounds the exact table; above it the search is bounded instead.
const tableLimit = 300_000_000

// Cheapest returns the indexes, rising, of a set of choices whose sizes add up to
// at least need at the least total cost. When all together are too small, all are
// returned. proven is false when the problem was too large for an exact answer and
// the cheapest-per-size rule was used.
func Cheapest(need int64, choices []Choice) (picked []int, proven bool) {
	if need <= 0 {
		return nil, true
	}
	total := int64(0)
	for _, c := range choices {
		total += c.Size
	}
	if total <= need {
		for i := range choices {
			picked = append(picked, i)
		}
		return picked, true
	}
	kept := undominated(need, choices)
	scale := need
	for _, i := range kept {
		scale = gcd(scale, min(choices[i].Size, need))
	}
	if (need/scale)*int64(len(kept)) > tableLimit {
		return greedy(need, choices, kept), false
	}
	return table(need/scale, scale, choices, kept), true
}

// undominated keeps, of the choices that have one size, only as many of the
// cheapest as can be of use. What is larger than need counts as need.
func undominated(need int64, choices []Choice) []int {
	order := make([]int, len(choices))
	for i := range order {
		order[i] = i
	}
	sort.SliceStable(order, func(a, b int) bool { return choices[order[a]].Cost < choices[order[b]].Cost })
	used := map[int64]int64{}
	var kept []int
	for _, i := range order {
		size := min(choices[i].Size, need)
		if size > 0 && used[size]*size < need {
			used[size]++
			kept = append(kept, i)
		}
	}
	return kept
}

// table is the exact dynamic programme: least[q] is the least cost to hold at
// least q.
func table(need, scale int64, choices []Choice, kept []int) []int {
	least := make([]int64, need+1)
	for q := int64(1); q <= need; q++ {
		least[q] = math.MaxInt64 / 2
	}
	words := int(need/64) + 1
	taken := make([]uint64, words*len(kept))
	for k, i := range kept {
		size, row := min(choices[i].Size/scale, need), taken[k*words:(k+1)*words]
		for q := need; q > 0; q-- {
			if cost := least[max(0, q-size)] + choices[i].Cost; cost < least[q] {
				least[q] = cost
				row[q/64] |= 1 << (q % 64)
			}
		}
	}
	var picked []int
	for k, q := len(kept)-1, need; k >= 0 && q > 0; k-- {
		if taken[k*words+int(q/64)]&(1<<(q%64)) != 0 {
			picked = append(picked, kept[k])
			q -= min(choices[kept[k]].Size/scale, q)
		}
	}
	sort.Ints(picked)
	return picked
}

func greedy(need int64, choices []Choice, kept []int) []int {
	rate := func(i int) float64 { return float64(choices[i].Cost) / float64(min(choices[i].Size, need)) }
	sort.SliceStable(kept, func(a, b int) bool { return rate(kept[a]) < rate(kept[b]) })
	var picked []int
	for _, i := range kept {
		if need <= 0 {
			break
		}
		picked = append(picked, i)
		need -= choices[i].Size
	}
	sort.Ints(picked)
	return picked
}

func gcd(a, b int64) int64 {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}
