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
	two := func(i int) int { return int(yymmdd[i]-'0')*10 + int(yymmdd[i+1]-'0') }
	return dateOf(year(two(0), today), two(2), two(4), open)
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
