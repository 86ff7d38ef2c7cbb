package counting

import (
	"cmp"
	"slices"
	"time"
)

// A Reason is why a bin is counted.
type Reason string

// The reasons there are, the most pressing first: a count differs, and another person counts again; somebody asked for
// it (a round found too few, or a count is made anew); a customer got too few or other goods than were picked there;
// the last count differed; it was emptied, where one look shows whether it is; its class is due; its contents changed
// often; nothing moved for long; or an error is likely.
const (
	Recount   Reason = "again"
	Asked     Reason = "asked"
	Complaint Reason = "complaint"
	Differed  Reason = "differed"
	Emptied   Reason = "emptied"
	Overdue   Reason = "overdue"
	Busy      Reason = "busy"
	Still     Reason = "still"
	Likely    Reason = "likely"
)

// pressing are the reasons, the most pressing first.
var pressing = []Reason{Recount, Asked, Complaint, Differed, Emptied, Overdue, Busy, Still, Likely}

// Words say a reason, behind "because".
func Words(r Reason) string {
	return map[Reason]string{Recount: "a count differs", Asked: "somebody asked for it", Complaint: "a customer complained",
		Differed: "it differed last time", Emptied: "it was emptied", Overdue: "its class is due", Busy: "its contents changed often",
		Still: "nothing moved for long", Likely: "an error is likely"}[r]
}

// Policy is how a site counts: how often a year each class is counted, after how long without a move a bin is looked
// at, and after how many moves.
type Policy struct {
	PerYear   map[Class]int
	StillDays int
	BusyMoves int
}

// likely is from which chance of an error on a bin is counted for it alone (common practice, no source: one in twenty).
const likely = 0.05

// A Candidate is an item in a bin that may be counted today.
type Candidate struct {
	Class Class
	// Counted is when it was last counted, and Moved when anything of it last moved there; zero for never. Since is
	// when it came.
	Counted, Moved, Since time.Time
	// Recount tells that another person is to count it again, and Complaint that a customer complained since.
	Recount, Asked, Complaint, Differed bool
	// Moves is how often anything of it moved there since it was counted.
	Moves int
	// Empty tells that the books have none of it there any more.
	Empty  bool
	Chance float64
}

// Reasons says why it is to be counted, the most pressing first; nothing where it is not.
func (p Policy) Reasons(c Candidate, now time.Time) (out []Reason) {
	known := latest(c.Counted, c.Since)
	moved := c.Moved.After(c.Counted)
	is := map[Reason]bool{
		Recount:   c.Recount,
		Asked:     c.Asked,
		Complaint: c.Complaint,
		Differed:  c.Differed && moved,
		Emptied:   c.Empty && moved,
		Busy:      !c.Empty && p.BusyMoves > 0 && c.Moves >= p.BusyMoves,
		Overdue:   !c.Empty && p.overdue(c.Class, known, now) >= 1,
		Still:     !c.Empty && now.Sub(latest(known, c.Moved)) > time.Duration(p.StillDays)*24*time.Hour,
		Likely:    !c.Empty && c.Chance >= likely,
	}
	for _, reason := range pressing {
		if is[reason] {
			out = append(out, reason)
		}
	}
	return out
}

// overdue is how much of the time between two counts of a class has passed since one, 1 for all of it.
func (p Policy) overdue(class Class, since, now time.Time) float64 {
	n := p.PerYear[class]
	if n == 0 || since.IsZero() {
		return 0
	}
	return now.Sub(since).Hours() / 24 / (365 / float64(n))
}

// DueOn is the day on which its class is due; nil for never.
func (p Policy) DueOn(c Candidate) *time.Time {
	n := p.PerYear[c.Class]
	known := latest(c.Counted, c.Since)
	if n == 0 || known.IsZero() {
		return nil
	}
	due := known.Add(time.Duration(float64(365*24*time.Hour) / float64(n)))
	return &due
}

// Before tells which of two candidates is counted first: by its most pressing reason, and among those of one reason by
// how likely an error is.
func Before(a, b Candidate, whyA, whyB []Reason) int {
	if c := cmp.Compare(slices.Index(pressing, whyA[0]), slices.Index(pressing, whyB[0])); c != 0 {
		return c
	}
	return cmp.Compare(b.Chance, a.Chance)
}

func latest(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

// Fit is how many of n things, the first first, take no more than a budget: minutes says how long the first so many
// take, and never less for more of them. Where there is a budget at all, the first is among them however long it takes:
// otherwise it would wait for ever.
func Fit(n int, minutes func(first int) (float64, error), budget float64) (int, error) {
	low, high := 0, n
	if budget > 0 {
		low = min(1, n)
	}
	for low < high {
		mid := (low + high + 1) / 2
		took, err := minutes(mid)
		if err != nil {
			return 0, err
		}
		if took <= budget {
			low = mid
		} else {
			high = mid - 1
		}
	}
	return low, nil
}
