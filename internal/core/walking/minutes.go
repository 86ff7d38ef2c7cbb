package walking

import (
	"github.com/shopspring/decimal"
)

// Pace is how long work takes on a floor, in seconds but for the walk.
type Pace struct {
	// SetUp is for each round; MetresPerSecond is how quickly one walks.
	SetUp           decimal.Decimal `db:"pace_set_up" json:"set_up"`
	MetresPerSecond decimal.Decimal `db:"pace_walk" json:"metres_per_second"`
	// PerStop is for each bin that is stood at, PerLine for each line that is taken
	// there, PerUnit for each unit and PerKilo for each kilogram of it.
	PerStop decimal.Decimal `db:"pace_stop" json:"per_stop"`
	PerLine decimal.Decimal `db:"pace_line" json:"per_line"`
	PerUnit decimal.Decimal `db:"pace_unit" json:"per_unit"`
	PerKilo decimal.Decimal `db:"pace_kilo" json:"per_kilo"`
}

// UsualPace is what a floor works at until its own is known. A pace of MTM-1 takes
// 15 TMU of 0.036 s, and a foot of walking 5.3 TMU, which make 1.6 m/s (from memory);
// with a trolley somewhat less. The other times are common practice, no source.
var UsualPace = Pace{
	SetUp: decimal.NewFromInt(90), MetresPerSecond: decimal.New(13, -1),
	PerStop: decimal.NewFromInt(6), PerLine: decimal.NewFromInt(4), PerUnit: decimal.New(15,
		-1), PerKilo: decimal.New(2, -1),
}

// Work is what a round asks of whoever walks it.
type Work struct {
	Metres   decimal.Decimal `json:"metres"`
	Stops    int             `json:"stops"`
	Lines    int             `json:"lines"`
	Units    decimal.Decimal `json:"units"`
	WeightKg decimal.Decimal `json:"weight_kg"`
}

// Estimate is how long work takes, in minutes to one decimal, and what that is made of.
type Estimate struct {
	Minutes decimal.Decimal `json:"minutes"`
	SetUp   decimal.Decimal `json:"set_up"`
	Walking decimal.Decimal `json:"walking"`
	// Handling is at the bins.
	Handling decimal.Decimal `json:"handling"`
}

var sixty = decimal.NewFromInt(60)

// Estimate calculates how long work takes. Without a walking pace the walk takes no time.
func (p Pace) Estimate(w Work) Estimate {
	walk := decimal.Zero
	if p.MetresPerSecond.IsPositive() {
		walk = w.Metres.DivRound(p.MetresPerSecond, 6)
	}
	handling := p.PerStop.Mul(decimal.NewFromInt(int64(w.Stops))).Add(p.PerLine.Mul(decimal.NewFromInt(int64(w.Lines)))).
		Add(p.PerUnit.Mul(w.Units)).Add(p.PerKilo.Mul(w.WeightKg))
	minutes := func(seconds decimal.Decimal) decimal.Decimal { return seconds.DivRound(sixty, 1) }
	return Estimate{minutes(p.SetUp.Add(walk).Add(handling)), minutes(p.SetUp), minutes(walk), minutes(handling)}
}
