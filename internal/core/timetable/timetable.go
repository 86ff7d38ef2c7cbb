// Package timetable calculates when something that repeats is next due, by the clock on a
// site's wall.
package timetable

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/core/refusal"
)

// A Rule says when something repeats: at times of day, or every so many minutes of a
// stretch of the day.
type Rule struct {
	// Days are those of the week on which it is due, 0 for Sunday to 6 for Saturday; none
	// for every day.
	Days []int `json:"days,omitempty" maxItems:"7" doc:"0 for Sunday to 6 for Saturday; none for every day"`
	// At are times of day, as 16:00.
	At []string `json:"at,omitempty" maxItems:"48" doc:"Times of day by the site's clock, as 16:00"`
	// Every is in minutes, from First to Last, both of them due where a step meets them.
	Every int    `json:"every,omitempty" minimum:"0" maximum:"1440" doc:"Minutes, from first to last, instead of times"`
	First string `json:"first,omitempty" maxLength:"5" doc:"Since when on a day, as 07:00"`
	Last  string `json:"last,omitempty" maxLength:"5" doc:"Until when, as 17:00"`
}

// shortest is how many minutes must lie between two times of a rule.
const shortest = 5

// minutes reads a time of day as minutes since midnight.
func minutes(field, text string) (int, error) {
	t, err := time.Parse("15:04", strings.TrimSpace(text))
	if err != nil {
		return 0, refusal.New(refusal.TimeMalformed, field, "%q is not a time of day. Write it as 16:00.", text)
	}
	return t.Hour()*60 + t.Minute(), nil
}

// Times are those of a day on which the rule is due, in minutes since midnight, in order
// and each once. A rule that is none is refused.
func (r Rule) Times() ([]int, error) {
	for _, d := range r.Days {
		if d < 0 || d > 6 {
			return nil, refusal.New(refusal.DayUnknown, "days",
				"%d is no day of the week. 0 is Sunday, 6 is Saturday.", d)
		}
	}
	if r.Every == 0 {
		if len(r.At) == 0 {
			return nil, refusal.New(refusal.TimesMissing, "at",
				"Say when: at which times of day, or every how many minutes.")
		}
		var out []int
		for i, text := range r.At {
			m, err := minutes(fmt.Sprintf("at[%d]", i), text)
			if err != nil {
				return nil, err
			}
			out = append(out, m)
		}
		slices.Sort(out)
		return slices.Compact(out), nil
	}
	if len(r.At) > 0 {
		return nil, refusal.New(refusal.TimesTwice, "at", "Say times of day or every how many minutes, not both.")
	}
	if r.Every < shortest {
		return nil, refusal.New(refusal.EveryShort, "every", "Every %d minutes is too often. The least is %d.",
			r.Every, shortest)
	}
	first, err := minutes("first", r.First)
	if err != nil {
		return nil, err
	}
	last, err := minutes("last", r.Last)
	if err != nil {
		return nil, err
	}
	if last < first {
		return nil, refusal.New(refusal.StretchBackward, "last",
			"From %s until %s goes backward. Two schedules serve a night.", r.First, r.Last)
	}
	var out []int
	for m := first; m <= last; m += r.Every {
		out = append(out, m)
	}
	return out, nil
}

// Next is the first moment after one at which the rule is due, by a clock. Where the clock
// is put forward over a time, it is due as if the clock had not been; where it is returned to stock
// over it, the first time round (as RFC 5545, section 3.3.5, reads such times).
func (r Rule) Next(after time.Time, clock *time.Location) (time.Time, error) {
	times, err := r.Times()
	if err != nil {
		return time.Time{}, err
	}
	year, month, day := after.In(clock).Date()
	// Back one day for a time that the clock's change brought over midnight; on a week and a
	// day, for the same day of the next week.
	for ahead := -1; ahead <= 8; ahead++ {
		date := time.Date(year, month, day+ahead, 0, 0, 0, 0, time.UTC)
		if len(r.Days) > 0 && !slices.Contains(r.Days, int(date.Weekday())) {
			continue
		}
		var next time.Time
		for _, m := range times {
			if t := moment(date.Add(time.Duration(m)*time.Minute), clock); t.After(after) &&
				(next.IsZero() || t.Before(next)) {
				next = t
			}
		}
		if !next.IsZero() {
			return next, nil
		}
	}
	return time.Time{}, fmt.Errorf("calculating when %v is next due after %v: no day of the week is", r, after)
}

// moment is when a clock shows what wall says, read as UTC.
func moment(wall time.Time, clock *time.Location) time.Time {
	shows := func(t time.Time) bool {
		t = t.In(clock)
		_, offset := t.Zone()
		return t.Add(time.Duration(offset) * time.Second).UTC().Equal(wall)
	}
	t := time.Date(wall.Year(), wall.Month(), wall.Day(), wall.Hour(), wall.Minute(), 0, 0, clock)
	_, offset := t.Add(-3 * time.Hour).Zone()
	before := wall.Add(-time.Duration(offset) * time.Second).In(clock)
	if !shows(t) || shows(before) && before.Before(t) {
		return before
	}
	return t
}

var dayNames = []string{"Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"}

// Words say the rule.
func (r Rule) Words() string {
	var days string
	switch set := slices.Compact(slices.Sorted(slices.Values(r.Days))); {
	case len(set) == 0 || len(set) == 7:
		days = "every day"
	case slices.Equal(set, []int{1, 2, 3, 4, 5}):
		days = "Monday to Friday"
	default:
		var names []string
		for _, d := range set {
			if d >= 0 && d < len(dayNames) {
				names = append(names, dayNames[d])
			}
		}
		days = strings.Join(names, ", ")
	}
	if r.Every > 0 {
		return fmt.Sprintf("every %d minutes from %s to %s, %s", r.Every, r.First, r.Last, days)
	}
	return fmt.Sprintf("at %s, %s", strings.Join(r.At, ", "), days)
}
