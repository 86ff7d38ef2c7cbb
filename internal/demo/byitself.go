package demo

import (
	"context"
	"time"

	"lanternrow/internal/billing"
	"lanternrow/internal/core/timetable"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/schedules"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/station/pick"
)

// engine does what is done by itself, by the story's clock.
func (s *story) engine() *schedules.Engine {
	runner := &command.Runner{DB: s.db, Now: func() time.Time { return s.clock }, Backdate: true}
	return schedules.New(runner, orders.ByItself(), pick.ByItself(), billing.ByItself())
}

// schedules has orders let go every half hour, and bills made in the evening.
func (s *story) schedules() {
	for _, wish := range []schedules.Wish{
		{SiteID: site, Task: "let-orders-go", Rule: timetable.Rule{Every: 30, First: "06:00", Last: "18:00"}, Settings: schedules.Settings{Days: 1}},
		{SiteID: site, Task: "bill-deliveries", Rule: timetable.Rule{At: []string{"18:00"}}},
	} {
		s.bills = as(s, "office", func(ctx context.Context, tx *command.Tx) (schedules.Schedule, error) {
			return s.engine().Create(ctx, tx, wish)
		})
	}
}

// due has done by itself what is due by now.
func (s *story) due() {
	if s.err == nil {
		s.err = s.engine().Due(s.ctx)
	}
}

// pauseBills has the office make bills by hand from now on, and rounds planned by
// themselves each morning.
func (s *story) pauseBills() {
	as(s, "office", func(ctx context.Context, tx *command.Tx) (schedules.Schedule, error) {
		return s.engine().Put(ctx, tx, s.bills.ID, s.bills.Version, schedules.Paused)
	})
	as(s, "lead", func(ctx context.Context, tx *command.Tx) (schedules.Schedule, error) {
		return s.engine().Create(ctx, tx, schedules.Wish{SiteID: site, Task: "plan-rounds", Rule: timetable.Rule{Days: []int{1, 2, 3, 4, 5}, At: []string{"06:30", "13:00"}}, Settings: schedules.Settings{MaxCartons: 8, Ready: true}})
	})
}
