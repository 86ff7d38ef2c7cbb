package forecast

import (
	"fmt"

	"lanternrow/internal/core/refusal"
)

// The most of each thing that a house may have.
const (
	mostPeople  = 1_000
	mostRounds  = 5_000
	mostCartons = 20_000
	mostMinutes = 1e6
)

// Check refuses what no house has: times below nought, orders of collections that are not
// there, more people, rounds or cartons than a day could hold.
func (h House) Check() error {
	times := map[string]float64{"pack": h.Pack, "load": h.Load}
	cartons := 0
	orders := map[int64]bool{}
	count := func(by map[int64]int) {
		for order, n := range by {
			orders[order] = true
			cartons = min(cartons+max(n, -n), mostCartons+1)
		}
	}
	count(h.AtBench)
	count(h.Packed)
	for i, r := range h.Rounds {
		times[fmt.Sprintf("rounds[%d].set_up", i)], times[fmt.Sprintf("rounds[%d].from", i)] = r.SetUp, r.From
		if r.Walker < Nobody || r.Walker >= mostPeople {
			return outside(fmt.Sprintf("rounds[%d].walker", i), float64(r.Walker))
		}
		for j, p := range r.Parts {
			times[fmt.Sprintf("rounds[%d].parts[%d].minutes", i, j)] = p.Minutes
			orders[p.Order] = true
			cartons = min(cartons+max(p.Cartons, -p.Cartons), mostCartons+1)
		}
	}
	switch {
	case h.Walkers < 0 || h.Walkers > mostPeople:
		return outside("walkers", float64(h.Walkers))
	case h.Packers < 0 || h.Packers > mostPeople:
		return outside("packers", float64(h.Packers))
	case len(h.Rounds) > mostRounds:
		return outside("rounds", float64(len(h.Rounds)))
	case cartons > mostCartons:
		return refusal.New(refusal.NumberRange, "rounds", "More than %d cartons cannot be followed.", mostCartons)
	}
	for field, minutes := range times {
		if !(minutes >= 0 && minutes <= mostMinutes) {
			return outside(field, minutes)
		}
	}
	for order := range orders {
		if at, known := h.Of[order]; !known || at < 0 || at >= len(h.Collections) {
			return refusal.New(refusal.NumberRange, "of", "Order %d goes with none of the %d collections.", order,
				len(h.Collections))
		}
	}
	return nil
}

func outside(field string, n float64) error {
	return refusal.New(refusal.NumberRange, field, "%g is out of range: give 0 or more, and no more than a day holds.", n)
}
