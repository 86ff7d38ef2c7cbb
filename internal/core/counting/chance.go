package counting

import (
	"math"

	"lanternrow/internal/core/refusal"
)

// A Past is a count that was made: how many moves of each kind the bin and item saw since the one before, and whether
// it found the books wrong.
type Past struct {
	Moves map[string]int `json:"moves"`
	Wrong bool           `json:"wrong"`
}

// Rates are how many errors a move of each kind makes, on average.
type Rates map[string]float64

// Prior is what is thought of any kind of move before a count says more: as if Errors errors had been seen in Moves
// moves.
type Prior struct {
	Errors float64 `json:"errors"`
	Moves  float64 `json:"moves"`
}

// Common is what is thought of a house that has counted nothing: an error in two hundred moves (from memory, no one
// source).
var Common = Prior{Errors: 1, Moves: 200}

// most is beyond which no figure is meant.
const most = 1e9

// Check refuses what nothing can be learnt from: fewer than no moves, or a prior that says nothing.
func Check(past []Past, prior Prior, bins map[string]map[string]int) error {
	if !(prior.Moves > 0 && prior.Moves <= most && prior.Errors >= 0 && prior.Errors <= most) {
		return refusal.New(refusal.NumberRange, "prior", "What is thought before is errors, from 0 on, in moves, of which there is at least a part of one.")
	}
	for _, p := range past {
		if err := checkMoves("past", p.Moves); err != nil {
			return err
		}
	}
	for _, moves := range bins {
		if err := checkMoves("bins", moves); err != nil {
			return err
		}
	}
	return nil
}

func checkMoves(field string, moves map[string]int) error {
	for kind, n := range moves {
		if n < 0 || n > most {
			return refusal.New(refusal.NumberRange, field, "%d moves of the kind %s cannot be. Say from 0 on how many there were.", n, kind)
		}
	}
	return nil
}

// turns is how often rates are made better; they change little after that.
const turns = 60

// Learn estimates the rate of errors of each kind of move from past counts. Errors are taken to come as a Poisson
// process with a rate for each kind, of which a count sees only whether there was any; the rates are those that make
// the counts most likely, with a Gamma prior. It is found by expectation and maximization: a wrong count's expected
// errors are laid to the kinds by their part in what was expected. Sources: Dempster, Laird and Rubin (1977) for the
// method; Gelman and others, Bayesian Data Analysis, for the Gamma prior of a Poisson rate (both from memory).
func Learn(past []Past, prior Prior) Rates {
	moves := map[string]float64{}
	for _, p := range past {
		for kind, n := range p.Moves {
			moves[kind] += float64(n)
		}
	}
	rates := Rates{}
	for kind := range moves {
		rates[kind] = prior.Errors / prior.Moves
	}
	for range turns {
		errors := map[string]float64{}
		for _, p := range past {
			rates.lay(p, errors)
		}
		for kind, n := range moves {
			rates[kind] = (prior.Errors + errors[kind]) / (prior.Moves + n)
		}
	}
	return rates
}

// lay lays the errors that a wrong count is expected to have had to the kinds of its moves.
func (r Rates) lay(p Past, errors map[string]float64) {
	if !p.Wrong {
		return
	}
	expected := r.expected(p.Moves)
	if expected == 0 {
		return
	}
	// At least one there was.
	seen := expected / (1 - math.Exp(-expected))
	for kind, n := range p.Moves {
		errors[kind] += seen * float64(n) * r[kind] / expected
	}
}

// expected is how many errors moves make; of a kind that was never counted, as many as is thought of any.
func (r Rates) expected(moves map[string]int) (sum float64) {
	for kind, n := range moves {
		rate, known := r[kind]
		if !known {
			rate = Common.Errors / Common.Moves
		}
		sum += float64(n) * rate
	}
	return sum
}

// Chance is how likely the books are wrong after so many moves of each kind since they were counted, 0 to 1.
func (r Rates) Chance(moves map[string]int) float64 { return 1 - math.Exp(-r.expected(moves)) }
