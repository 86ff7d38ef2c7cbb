package counting

import (
	"fmt"
	"testing"
	"time"
)

// TestWhyABinIsCounted takes each reason by itself, and what is no reason.
func TestWhyABinIsCounted(t *testing.T) {
	now := time.Date(2026, 11, 28, 9, 0, 0, 0, time.UTC)
	ago := func(days int) time.Time { return now.AddDate(0, 0, -days) }
	p := Policy{PerYear: map[Class]int{A: 12, B: 4, C: 0}, StillDays: 180}
	for name, c := range map[string]struct {
		of   Candidate
		want string
	}{
		"counted yesterday":               {Candidate{Class: A, Counted: ago(1), Moved: ago(9)}, "[]"},
		"A after 29 days":                 {Candidate{Class: A, Counted: ago(29), Moved: ago(40)}, "[]"},
		"A after 31 days":                 {Candidate{Class: A, Counted: ago(31), Moved: ago(40)}, "[overdue]"},
		"B after 31 days":                 {Candidate{Class: B, Counted: ago(31), Moved: ago(40)}, "[]"},
		"C is never due":                  {Candidate{Class: C, Counted: ago(170), Moved: ago(175)}, "[]"},
		"C is still":                      {Candidate{Class: C, Counted: ago(400), Moved: ago(181)}, "[still]"},
		"never counted, came long ago":    {Candidate{Class: B, Since: ago(100), Moved: ago(2)}, "[overdue]"},
		"asked for, and likely":           {Candidate{Class: C, Counted: ago(1), Moved: ago(0), Asked: true, Chance: 0.3}, "[asked likely]"},
		"hardly likely":                   {Candidate{Class: C, Counted: ago(9), Moved: ago(0), Chance: 0.04}, "[]"},
		"differed, and moved since":       {Candidate{Class: C, Counted: ago(5), Moved: ago(1), Differed: true}, "[differed]"},
		"differed, and nothing since":     {Candidate{Class: C, Counted: ago(5), Moved: ago(6), Differed: true}, "[]"},
		"emptied since it was counted":    {Candidate{Class: A, Counted: ago(50), Moved: ago(1), Empty: true, Chance: 0.9}, "[emptied]"},
		"found empty when it was counted": {Candidate{Class: A, Counted: ago(0), Moved: ago(1), Empty: true}, "[]"},
	} {
		if got := fmt.Sprint(p.Reasons(c.of, now)); got != c.want {
			t.Errorf("%s: %s, not %s", name, got, c.want)
		}
	}
	if due := p.DueOn(Candidate{Class: B, Counted: ago(31)}); due == nil || due.Format(time.DateOnly) != "2027-01-27" {
		t.Errorf("B that was counted 31 days ago is due on %v", due)
	}
	first := Before(Candidate{Chance: 0.1}, Candidate{Chance: 0.9}, []Reason{Overdue}, []Reason{Likely})
	if second := Before(Candidate{Chance: 0.1}, Candidate{Chance: 0.9}, []Reason{Likely}, []Reason{Likely}); first >= 0 || second <= 0 {
		t.Error("what presses most does not come first")
	}
}

// TestTheBudgetIsNotPassed holds for any budget: one more would be too long.
func TestTheBudgetIsNotPassed(t *testing.T) {
	minutes := func(n int) (float64, error) { return float64(n*n) / 10, nil }
	for budget := range 40 {
		got, err := Fit(12, minutes, float64(budget))
		if err != nil {
			t.Fatal(err)
		}
		took, _ := minutes(got)
		more, _ := minutes(got + 1)
		if took > float64(budget) || got < 12 && more <= float64(budget) {
			t.Errorf("of 12, %d fit into %d minutes", got, budget)
		}
	}
	if n, _ := Fit(12, func(n int) (float64, error) { return float64(100 * n), nil }, 45); n != 1 {
		t.Errorf("of what takes longer than a day, %d are counted", n)
	}
}
