package gs1

import (
	"fmt"
	"time"
)

// year places a two-digit year in the century around today: 51 to 99 ahead is
// the last century, 50 to 99 back is the next (GS1 General Specifications,
// section 7.12).
func year(yy int, today time.Time) int {
	century := today.Year() / 100 * 100
	switch ahead := yy - today.Year()%100; {
	case ahead >= 51:
		century -= 100
	case ahead <= -50:
		century += 100
	}
	return century + yy
}

// Date reads YYMMDD. Day 00 stands for the last day of its month where open is
// true, and is refused otherwise.
func Date(yymmdd string, open bool, today time.Time) (time.Time, error) {
	if len(yymmdd) != 6 || !numeric(yymmdd) {
		return time.Time{}, fmt.Errorf("%q is not a date of six digits, year, month, day", yymmdd)
	}
	return dateOf(year(digits(yymmdd[:2]), today), digits(yymmdd[2:4]), digits(yymmdd[4:]), open)
}

func dateOf(y, m, d int, open bool) (time.Time, error) {
	if m < 1 || m > 12 {
		return time.Time{}, fmt.Errorf("there is no month %02d", m)
	}
	last := time.Date(y, time.Month(m)+1, 0, 0, 0, 0, 0, time.UTC)
	switch {
	case d == 0 && open:
		return last, nil
	case d < 1 || d > last.Day():
		return time.Time{}, fmt.Errorf("%04d-%02d has no day %02d", y, m, d)
	}
	return time.Date(y, time.Month(m), d, 0, 0, 0, 0, time.UTC), nil
}

// digits is the number that digits stand for.
func digits(s string) (n int) {
	for i := range len(s) {
		n = n*10 + int(s[i]-'0')
	}
	return n
}

// A Precision says how exactly a label gives a moment.
type Precision string

// The precisions that the standard knows.
const (
	Day    Precision = "day"
	Hour   Precision = "hour"
	Minute Precision = "minute"
	Second Precision = "second"
)

// A Moment is a date on a label, with the hour, minute and second where it gives them. It
// has no zone: it is the time where it was printed, written as UTC.
type Moment struct {
	At time.Time
	// Until is the last day of a range (7007); nil for one moment.
	Until     *time.Time
	Precision Precision
}

// moment reads a checked value's date and time; it is nil where the identifier has none.
func (id *Identifier) moment(value string, today time.Time) *Moment {
	var m *Moment
	_ = id.each(value, func(p part, piece string) error {
		for _, check := range p.checks {
			m = m.with(check, piece, today)
		}
		return nil
	})
	return m
}

// with adds what a part says. Parts of a time follow their date.
func (m *Moment) with(check, piece string, today time.Time) *Moment {
	add := func(hours, minutes, seconds int, p Precision) *Moment {
		m.At = m.At.Add(time.Duration(hours)*time.Hour + time.Duration(minutes)*time.Minute +
			time.Duration(seconds)*time.Second)
		m.Precision = p
		return m
	}
	switch check {
	case "yymmdd", "yymmd0":
		d, err := Date(piece, check == "yymmd0", today)
		if err != nil {
			return m
		}
		if m != nil {
			m.Until = &d
			return m
		}
		return &Moment{At: d, Precision: Day}
	case "yyyymmdd":
		d, err := dateOf(digits(piece[:4]), digits(piece[4:6]), digits(piece[6:]), false)
		if err != nil {
			return m
		}
		return &Moment{At: d, Precision: Day}
	}
	if m == nil {
		return nil
	}
	switch check {
	case "hhmi":
		return add(digits(piece[:2]), digits(piece[2:]), 0, Minute)
	case "hh":
		return add(digits(piece), 0, 0, Hour)
	case "mi":
		return add(0, digits(piece), 0, Minute)
	case "ss":
		return add(0, 0, digits(piece), Second)
	}
	return m
}
