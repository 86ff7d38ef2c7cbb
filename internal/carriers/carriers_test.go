package carriers

import (
	"testing"
	"time"
)

func TestWhenACarrierCollects(t *testing.T) {
	london, err := time.LoadLocation("Europe/London")
	if err != nil {
		t.Fatal(err)
	}
	at := func(text string) time.Time {
		v, err := time.ParseInLocation("2006-01-02 15:04", text, london)
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
	for name, c := range map[string]struct {
		times      []string
		now        string
		next, last string
	}{
		"before the first of the day": {[]string{"10:30", "16:00"}, "2027-03-01 09:00", "2027-03-01 10:30",
			"2027-03-01 16:00"},
		"between two": {[]string{"10:30", "16:00"}, "2027-03-01 12:00", "2027-03-01 16:00",
			"2027-03-01 16:00"},
		"after the last": {[]string{"10:30", "16:00"}, "2027-03-01 17:00", "2027-03-02 10:30",
			"2027-03-01 16:00"},
		"to the minute": {[]string{"16:00"}, "2027-03-01 16:00", "2027-03-01 16:00",
			"2027-03-01 16:00"},
		"over the night the clocks go forward": {[]string{"09:15"}, "2027-03-27 12:00", "2027-03-28 09:15",
			"2027-03-27 09:15"},
		"what is no time is passed over": {[]string{"noon", "14:15"}, "2027-03-01 09:00", "2027-03-01 14:15",
			"2027-03-01 14:15"},
		"never": {nil, "2027-03-01 09:00", "", ""},
	} {
		now := at(c.now)
		got, last := next(c.times, now), Carrier{Collects: c.times, clock: london}.LastOn(now.UTC())
		for what, pair := range map[string]struct {
			got  *time.Time
			want string
		}{"next": {got, c.next}, "last": {last, c.last}} {
			if (pair.got == nil) != (pair.want == "") || pair.got != nil && !pair.got.Equal(at(pair.want)) {
				t.Errorf("%s: %s is %v, want %q", name, what, pair.got, pair.want)
			}
		}
	}
}
