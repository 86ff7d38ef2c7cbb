package demo

import (
	"context"

	"lanternrow/internal/catalog/sheets"
	"lanternrow/internal/core/timetable"
	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/schedules"
	"lanternrow/internal/station/receive"
	"lanternrow/internal/station/refill"
)

// sheet writes rows of the catalog, as the lead imports them.
func (s *story) sheet(name string, header []string, rows ...[]string) {
	as(s, "lead", func(ctx context.Context, tx *command.Tx) (sheets.Preview, error) {
		return sheets.Sheets[name].Import(ctx, tx, site, exchange.Table{Header: header, Rows: rows}, false)
	})
}

// refills keeps picking bins filled: one walk is done, one is under way, and one waits; each morning they are made by
// themselves.
func (s *story) refills() {
	s.sheet("picking-bins", []string{"for", "least", "most"}, []string{"GL-106 / B-02-1-A", "10", "40"},
		[]string{"GL-202 / B-02-1-B", "10", "60"}, []string{"GL-216 / B-03-1-A", "20", "60"}, []string{"FL-090 / HOME", "10", "16"},
		[]string{"BR-100 / HOME", "8", "24"}, []string{"CB-050 / HOME", "10", "50"}, []string{"CF-185 / B-03-1-B", "20", "60"},
		[]string{"CB-100 / D-02-1-A", "5", "20"}, []string{"DX-100 / E-04-1-A", "20", "60"}, []string{"FT-025 / A-02-1-A", "30", "60"},
		[]string{"CL-100 / C-02-1-A", "6", "18"})
	as(s, "lead", func(ctx context.Context, tx *command.Tx) (schedules.Schedule, error) {
		return s.engine().Create(ctx, tx, schedules.Wish{SiteID: site, Task: "make-refills",
			Rule: timetable.Rule{Days: []int{1, 2, 3, 4, 5}, At: []string{"05:45"}}, Settings: schedules.Settings{MaxLines: 12}})
	})
	made := as(s, "lead", func(ctx context.Context, tx *command.Tx) ([]refill.Refill, error) {
		return refill.Make(ctx, tx, refill.Wish{SiteID: site, Levels: []int64{1, 2, 7, 8}, MaxLines: 2})
	})
	for i, r := range made {
		switch i {
		case 0:
			s.refill(r, "picker", len(r.Steps))
		case 1:
			s.refill(r, "picker2", 1)
		}
	}
}

// refill walks so many steps of a refill.
func (s *story) refill(r refill.Refill, picker string, steps int) {
	r = as(s, picker, func(ctx context.Context, tx *command.Tx) (refill.Refill, error) { return refill.Begin(ctx, tx, r.ID) })
	for range steps {
		if s.err != nil || len(r.Steps) == 0 {
			return
		}
		step := r.Steps[0]
		in := refill.Doing{LineID: step.LineID, Bin: step.Bin, Quantity: step.Quantity.String()}
		r = as(s, picker, func(ctx context.Context, tx *command.Tx) (refill.Refill, error) {
			if step.Does == refill.Fetching {
				return refill.FetchLine(ctx, tx, r.ID, in)
			}
			return refill.BringLine(ctx, tx, r.ID, in)
		})
	}
}

// relays sends half of the wide lens tubes that come on to the loft, by themselves: what came today is reserved on the
// dock for the transfer.
func (s *story) relays() {
	s.sheet("relays", []string{"name", "to_site", "item", "how", "share_pct"},
		[]string{"Half of the lens tubes", "Hill Loft", "LN-026", "share", "50"})
	wish := s.wish(1, 0, map[string]int{"LN-026": 12})
	wish.Send = true
	order := s.order("office", wish)
	a := s.openArrival("Dock 1", false, order)
	var lines []receive.ReceiptLine
	for _, l := range order.Lines {
		lines = append(lines, s.came(l, l.Quantity))
	}
	s.book("receiver", a, nil, lines...)
}
