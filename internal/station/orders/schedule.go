package orders

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/availability"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/schedules"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

// Schedule releases orders on hold at set times.
func Schedule() schedules.Task {
	return schedules.Task{
		Name: "release-orders", Title: "Release orders", Help: "Orders that wait for their release and are wanted by then are released; what somebody put on hold stays.",
		Uses: []string{"days", "carrier", "ready"}, Roles: web.Office,
		Preview: func(ctx context.Context, q sqlx.QueryerContext, site int32, s schedules.Settings,
			now time.Time) (schedules.Work, error) {
			list, until, err := dueToGo(ctx, q, site, s, now)
			return said("releases", list, until), err
		},
		Do: func(ctx context.Context, tx *command.Tx, site int32, s schedules.Settings) (schedules.Work, error) {
			list, until, err := dueToGo(ctx, tx, site, s, tx.Now)
			if err != nil {
				return schedules.Work{}, err
			}
			if err := documents.Hold(ctx, tx, documents.Own(documents.OutboundOrder, ids(list)...)); err != nil {
				return schedules.Work{}, err
			}
			for _, o := range list {
				if _, err := Release(ctx, tx, o.ID, o.Version, Lifting{}); err != nil {
					return schedules.Work{}, err
				}
			}
			return said("released", list, until), nil
		},
	}
}

func ids(of []Order) []int64 {
	out := make([]int64, len(of))
	for i, o := range of {
		out[i] = o.ID
	}
	return out
}

// waiting are the orders on hold that nobody put there for a reason.
const waiting = "waiting"

// mostAtOnce is how many orders one run releases; the next takes the others.
const mostAtOnce = 500

// dueToGo are the orders on hold that a schedule releases, and up to which day they are
// wanted.
func dueToGo(
	ctx context.Context, q sqlx.QueryerContext, site int32, s schedules.Settings, now time.Time,
) (out []Order, until string, err error) {
	if until, err = s.Until(ctx, q, site, now); err != nil {
		return nil, "", err
	}
	held, err := pageOrders(ctx, q, site, Filter{State: waiting, Carrier: s.Carrier, Until: until},
		byWanted, mostAtOnce)
	if err != nil || !s.Ready {
		return held.Orders, until, err
	}
	courses := map[int32]availability.Course{}
	for _, listed := range held.Orders {
		o, err := readOrder(ctx, q, listed.ID)
		if err != nil {
			return nil, until, err
		}
		if err := o.addDays(ctx, q, now, courses); err != nil {
			return nil, until, err
		}
		if o.canGo(now.UTC().Format(time.DateOnly)) {
			out = append(out, o)
		}
	}
	return out, until, nil
}

// canGo tells whether all that is open of it lies there now, and is not wanted by those
// before it.
func (o Order) canGo(today string) bool {
	if o.ShortLines > 0 {
		return false
	}
	for _, l := range o.Lines {
		if l.CanGo != nil && (*l.CanGo == "" || *l.CanGo > max(today, o.WantedOn)) {
			return false
		}
	}
	return true
}

func said(verb string, list []Order, until string) schedules.Work {
	w := schedules.Work{Words: fmt.Sprintf("%s no order: none that is on hold can go and is wanted by %s", verb, until)}
	for _, o := range list {
		w.Documents = append(w.Documents, o.Number)
	}
	if len(list) > 0 {
		w.Words = fmt.Sprintf("%s %s, wanted by %s", verb, measure.Count(len(list), "order"), until)
	}
	return w
}
