package demo

import (
	"context"
	"time"

	"lanternrow/internal/core/timetable"
	"lanternrow/internal/invoicing"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/schedules"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/station/pick"
	"lanternrow/internal/station/refill"
)

// engine does what is scheduled, by the story's clock.
func (s *story) engine() *schedules.Engine {
	runner := &command.Runner{DB: s.db, Now: func() time.Time { return s.clock }, Backdate: true}
	return schedules.New(runner, orders.Schedule(), pick.Schedule(), refill.Schedule(), invoicing.Schedule())
}

// schedules has orders released every half hour, and invoices made in the evening.
func (s *story) schedules() {
	for _, wish := range []schedules.Wish{
		{SiteID: site, Task: "release-orders", Rule: timetable.Rule{Every: 30, First: "06:00", Last: "18:00"},
			Settings: schedules.Settings{Days: 1}},
		{SiteID: site, Task: "invoice-shipments", Rule: timetable.Rule{At: []string{"18:00"}}},
	} {
		s.invoices = as(s, "office", func(ctx context.Context, tx *command.Tx) (schedules.Schedule, error) {
			return s.engine().Create(ctx, tx, wish)
		})
	}
	for _, other := range []int32{loft, yard} {
		as(s, "office", func(ctx context.Context, tx *command.Tx) (schedules.Schedule, error) {
			return s.engine().Create(ctx, tx, schedules.Wish{SiteID: other, Task: "invoice-shipments", Rule: timetable.Rule{At: []string{"18:00"}}})
		})
	}
}

// due has done on schedule what is due by now.
func (s *story) due() {
	if s.err == nil {
		s.err = s.engine().Due(s.ctx)
	}
}

// pauseInvoices has the office make invoices by hand from now on, and rounds planned by
// themselves each morning.
func (s *story) pauseInvoices() {
	as(s, "office", func(ctx context.Context, tx *command.Tx) (schedules.Schedule, error) {
		return s.engine().Put(ctx, tx, s.invoices.ID, s.invoices.Version, schedules.Paused)
	})
	as(s, "lead", func(ctx context.Context, tx *command.Tx) (schedules.Schedule, error) {
		return s.engine().Create(ctx, tx, schedules.Wish{SiteID: site, Task: "plan-rounds",
			Rule: timetable.Rule{Days: []int{1, 2, 3, 4, 5},
				At: []string{"06:30", "13:00"}}, Settings: schedules.Settings{MaxCartons: 8, Ready: true}})
	})
}
