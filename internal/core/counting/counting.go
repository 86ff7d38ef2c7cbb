// Package counting compares what was counted with what should be there.
package counting

import (
	"slices"

	"github.com/shopspring/decimal"
)

// Holding is goods of one item that are told apart from others in the same bin, by their
// lot or by what they lie on.
type Holding struct {
	// Key names it for the caller.
	Key string `json:"key"`
	// Quantity is in base units; of units known one by one it is how many Serials there are.
	Quantity decimal.Decimal `json:"quantity"`
	Serials  []string        `json:"serials,omitempty"`
}

// A Difference is by how much a count is off what should be there.
type Difference struct {
	Key string `json:"key"`
	// Delta is what was counted less what should be there.
	Delta decimal.Decimal `json:"delta"`
	// Missing and Extra are units by serial, in order.
	Missing []string `json:"missing,omitempty"`
	Extra   []string `json:"extra,omitempty"`
}

// Compare says where a count differs. What is in one list alone counts as none in the
// other. Differences come in the order of what should be there, then of the count.
func Compare(recorded, counted []Holding) []Difference {
	var out []Difference
	seen := map[string]Holding{}
	for _, c := range counted {
		seen[c.Key] = c
	}
	for _, r := range recorded {
		if d := r.against(seen[r.Key]); d.differs() {
			out = append(out, d)
		}
		delete(seen, r.Key)
	}
	for _, c := range counted {
		if _, more := seen[c.Key]; !more {
			continue
		}
		if d := (Holding{Key: c.Key}).against(c); d.differs() {
			out = append(out, d)
		}
	}
	return out
}

func (h Holding) against(c Holding) Difference {
	d := Difference{Key: h.Key, Delta: c.Quantity.Sub(h.Quantity)}
	for _, s := range h.Serials {
		if !slices.Contains(c.Serials, s) {
			d.Missing = append(d.Missing, s)
		}
	}
	for _, s := range c.Serials {
		if !slices.Contains(h.Serials, s) {
			d.Extra = append(d.Extra, s)
		}
	}
	slices.Sort(d.Missing)
	slices.Sort(d.Extra)
	return d
}

// differs tells whether there is a difference at all: other units may make the same sum.
func (d Difference) differs() bool {
	return !d.Delta.IsZero() || len(d.Missing) > 0 || len(d.Extra) > 0
}
