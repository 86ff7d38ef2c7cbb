package timetable_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"
	_ "time/tzdata"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/timetable"
	"lanternrow/internal/test/judge"
)

func clock(t *testing.T, name string) *time.Location {
	t.Helper()
	l, err := time.LoadLocation(name)
	if err != nil {
		t.Fatal(err)
	}
	return l
}

// walk is the first n moments after one.
func walk(t *testing.T, r timetable.Rule, after time.Time, l *time.Location, n int) (out []string) {
	t.Helper()
	for range n {
		next, err := r.Next(after, l)
		if err != nil {
			t.Fatal(err)
		}
		if !next.After(after) {
			t.Fatalf("%s is due at %s, which is not after %s", r.Words(), next, after)
		}
		out = append(out, next.In(l).Format("2006-01-02 15:04 MST"))
		after = next
	}
	return out
}

// TestRecurrencesOfTheStandardAreMet follows examples of RFC 5545, section 3.8.5.3, and
// what its section 3.3.5 says of times that a clock shows never or twice. The examples are
// from memory.
func TestRecurrencesOfTheStandardAreMet(t *testing.T) {
	york := clock(t, "America/New_York")
	for name, c := range map[string]struct {
		rule  timetable.Rule
		after string
		want  []string
	}{
		"every 20 minutes from 9:00 AM to 4:40 PM every day": {timetable.Rule{Every: 20, First: "09:00",
			Last: "16:40"}, "1997-09-02 16:00",
			[]string{"1997-09-02 16:20 EDT", "1997-09-02 16:40 EDT", "1997-09-03 09:00 EDT", "1997-09-03 09:20 EDT"}},
		"weekly on Tuesday and Thursday": {timetable.Rule{Days: []int{4, 2}, At: []string{"09:00"}}, "1997-09-01 12:00",
			[]string{"1997-09-02 09:00 EDT", "1997-09-04 09:00 EDT", "1997-09-09 09:00 EDT", "1997-09-11 09:00 EDT"}},
		"every hour and a half, from 9 to 17 of a Sunday on which the clock went back": {timetable.Rule{Days: []int{0}, Every: 90, First: "09:00", Last: "12:00"}, "1997-10-25 17:00",
			[]string{"1997-10-26 09:00 EST", "1997-10-26 10:30 EST", "1997-10-26 12:00 EST", "1997-11-02 09:00 EST"}},
		"2:30 on 2007-03-11, which no clock shows, is 3:30": {timetable.Rule{At: []string{"02:30"}}, "2007-03-10 12:00",
			[]string{"2007-03-11 03:30 EDT", "2007-03-12 02:30 EDT"}},
		"1:30 on 2007-11-04, which clocks show twice, is the first": {timetable.Rule{At: []string{"01:30"}},
			"2007-11-03 12:00",
			[]string{"2007-11-04 01:30 EDT", "2007-11-05 01:30 EST"}},
	} {
		t.Run(name, func(t *testing.T) {
			after, err := time.ParseInLocation("2006-01-02 15:04", c.after, york)
			if err != nil {
				t.Fatal(err)
			}
			if got := walk(t, c.rule, after, york, len(c.want)); fmt.Sprint(got) != fmt.Sprint(c.want) {
				t.Errorf("due %v, want %v", got, c.want)
			}
		})
	}
	// A clock that is put forward over midnight: the day has no 00:30, and it is due at 01:30.
	cairo := clock(t, "Africa/Cairo")
	if got := walk(t, timetable.Rule{At: []string{"00:30"}}, time.Date(2024, 4, 24, 12, 0, 0, 0, time.UTC), cairo,
		3); fmt.Sprint(got) != "[2024-04-25 00:30 EET 2024-04-26 01:30 EEST 2024-04-27 00:30 EEST]" {
		t.Errorf("in Cairo due %v", got)
	}
}

// TestRulesAgreeWithRRule compares random rules with npm rrule (BSD), which calculates the
// recurrences of RFC 5545, on a clock that is never put.
func TestRulesAgreeWithRRule(t *testing.T) {
	j := judge.NewNode(t, "rrule.mjs")
	r := rand.New(rand.NewPCG(7, 5545))
	for range 300 {
		rule := timetable.Rule{}
		for d := range 7 {
			if r.IntN(3) == 0 {
				rule.Days = append(rule.Days, d)
			}
		}
		if r.IntN(2) == 0 {
			for range 1 + r.IntN(4) {
				rule.At = append(rule.At, fmt.Sprintf("%02d:%02d", r.IntN(24), r.IntN(60)))
			}
		} else {
			first := r.IntN(20 * 60)
			last := first + r.IntN(24*60-first)
			rule.Every, rule.First, rule.Last = 5+r.IntN(200), fmt.Sprintf("%02d:%02d", first/60,
				first%60), fmt.Sprintf("%02d:%02d", last/60, last%60)
		}
		times, err := rule.Times()
		if err != nil {
			t.Fatal(err)
		}
		after := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).Add(time.Duration(r.IntN(365*24*60)) * time.Minute)
		var want []string
		j.Ask(t, map[string]any{"days": rule.Days, "times": times, "after": after, "count": 6}, &want)
		if got := walk(t, rule, after, time.UTC, 6); fmt.Sprint(got) != fmt.Sprint(want) {
			t.Fatalf("%s after %s: due %v, rrule says %v", rule.Words(), after, got, want)
		}
	}
}

// TestWhateverTheClockDoesEachTimeComesOnce follows random rules over a year on clocks that
// are put forward and back, by whole hours and by half ones, at midnight and in the
// morning: each day that is ticked has each time once, in order, and only a time that the
// clock skips is shown otherwise.
func TestWhateverTheClockDoesEachTimeComesOnce(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 45))
	for _, zone := range []string{"Europe/London", "America/New_York", "Africa/Cairo", "Australia/Lord_Howe",
		"America/Santiago", "Asia/Kathmandu", "UTC"} {
		l := clock(t, zone)
		for range 6 {
			rule := timetable.Rule{At: []string{"00:00", "23:59"}}
			for range 4 {
				// Most of them at the hours in which clocks are put.
				rule.At = append(rule.At, fmt.Sprintf("%02d:%02d", r.IntN(4), r.IntN(60)))
			}
			for d := range 7 {
				if r.IntN(2) == 0 {
					rule.Days = append(rule.Days, d)
				}
			}
			times, err := rule.Times()
			if err != nil {
				t.Fatal(err)
			}
			start := time.Date(2024, 1, 1, 12, 0, 0, 0, l)
			end := time.Date(2025, 1, 1, 12, 0, 0, 0, l)
			due, skipped := 0, 0
			for at := start; ; due++ {
				next, err := rule.Next(at, l)
				if err != nil || !next.After(at) {
					t.Fatalf("%s in %s after %s: %s, %v", rule.Words(), zone, at, next, err)
				}
				if at = next; at.After(end) {
					break
				}
				local := at.In(l)
				if !slices.Contains(times, local.Hour()*60+local.Minute()) {
					skipped++
				}
			}
			days := 0
			for d := start.AddDate(0, 0, 1); !d.After(end); d = d.AddDate(0, 0, 1) {
				if len(rule.Days) == 0 || slices.Contains(rule.Days, int(d.Weekday())) {
					days++
				}
			}
			// 23:59 of the first day is due too, and of the last is not.
			want := days * len(times)
			for _, edge := range []struct {
				day time.Time
				n   int
			}{{start, 1}, {end, -1}} {
				if len(rule.Days) == 0 || slices.Contains(rule.Days, int(edge.day.Weekday())) {
					want += edge.n
				}
			}
			if due+coinciding(rule, times, l) != want || skipped > 2*len(times) {
				t.Errorf("%s in %s is due %d times in a year, %d of them at other times; want %d", rule.Words(), zone,
					due, skipped, want)
			}
		}
	}
}

// coinciding counts the times of 2024 that a clock put forward makes one with a later time
// of the rule: 02:30 that is skipped and 03:30 that is meant.
func coinciding(rule timetable.Rule, times []int, l *time.Location) (n int) {
	for d := time.Date(2024, 1, 2, 12, 0, 0, 0, l); d.Year() == 2024; d = d.AddDate(0, 0, 1) {
		if len(rule.Days) > 0 && !slices.Contains(rule.Days, int(d.Weekday())) {
			continue
		}
		at := map[int64]bool{}
		for _, m := range times {
			wall := time.Date(d.Year(), d.Month(), d.Day(), m/60, m%60, 0, 0, l)
			if local := wall.In(l); local.Hour()*60+local.Minute() != m {
				// As if the clock had not been put: by the offset of the day before.
				_, offset := d.AddDate(0, 0, -1).Zone()
				wall = time.Date(d.Year(), d.Month(), d.Day(), m/60, m%60, 0, 0,
					time.UTC).Add(-time.Duration(offset) * time.Second)
			}
			if at[wall.Unix()] {
				n++
			}
			at[wall.Unix()] = true
		}
	}
	return n
}

func TestARuleThatIsNoneIsRefused(t *testing.T) {
	for code, rule := range map[refusal.Code]timetable.Rule{
		"times_missing":    {},
		"time_malformed":   {At: []string{"7.30"}},
		"times_twice":      {At: []string{"07:30"}, Every: 30, First: "07:00", Last: "08:00"},
		"every_short":      {Every: 1, First: "07:00", Last: "08:00"},
		"stretch_backward": {Every: 30, First: "22:00", Last: "06:00"},
		"day_unknown":      {Days: []int{7}, At: []string{"07:30"}},
	} {
		if _, err := rule.Next(time.Now(), time.UTC); refusal.From(err) == nil || refusal.From(err).Code != code {
			t.Errorf("%+v: %v, want %s", rule, err, code)
		}
	}
	for want, rule := range map[string]timetable.Rule{
		"at 07:30, 12:00, Monday to Friday": {Days: []int{5, 1, 2, 3, 4},
			At: []string{"07:30", "12:00"}},
		"every 30 minutes from 07:00 to 17:00, Sunday, Tuesday": {Days: []int{2, 0}, Every: 30, First: "07:00",
			Last: "17:00"},
		"at 18:00, every day": {At: []string{"18:00"}},
	} {
		if got := rule.Words(); got != want {
			t.Errorf("it is said %q, want %q", got, want)
		}
	}
}
