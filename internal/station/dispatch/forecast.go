package dispatch

import (
	"context"
	"fmt"
	"math"
	"slices"
	"time"

	"lanternrow/internal/core/forecast"
	"lanternrow/internal/outbound"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Left reads the picking that is left for groups of orders, the first group first.
type Left func(
	ctx context.Context, q sqlx.QueryerContext, site int32, groups [][]int64, now time.Time,
) (outbound.Left, error)

// Forecast says for each carrier's next collection when its last carton will be loaded, if
// those who are there now go on.
type Forecast struct {
	Walkers int              `json:"walkers" doc:"Signed on and moving; where nobody is, one is counted on"`
	Packers int              `json:"packers" doc:"Who packed within the half hour; where nobody did, one is counted on"`
	Still   []outbound.Still `json:"still" doc:"Rounds that stand still: whoever is free is counted on to walk them"`
	// PlannedAt is when what waits is planned into rounds on schedule.
	PlannedAt   *time.Time `json:"planned_at"`
	Collections []Outlook  `json:"collections"`
}

// Outlook is what is to be expected of one collection.
type Outlook struct {
	Carrier string     `json:"carrier"`
	At      *time.Time `json:"at"`
	// ReadyAt is when its last carton is loaded; nil where nothing is left to do.
	ReadyAt *time.Time      `json:"ready_at"`
	Made    bool            `json:"made" doc:"Whether all that lies there is ready by then"`
	Spare   int             `json:"spare" doc:"Minutes to spare; below nought it is missed by so many"`
	Lacking decimal.Decimal `json:"lacking" doc:"Units that nothing lies free for"`
	Help    *Help           `json:"help" doc:"What would help one that is missed"`
}

// Help is what would help a collection that is missed.
type Help struct {
	OneMoreAt time.Time  `json:"one_more_at" doc:"Ready then with one more picker from now on"`
	ReleaseAt *time.Time `json:"release_at" doc:"Ready then if what waits for its planning is released now"`
	// Leave are the orders without which it is made, the fewest found; LeaveAt is when it is
	// ready then.
	Leave   []Order    `json:"leave"`
	LeaveAt *time.Time `json:"leave_at"`
}

// Order is an order by its number.
type Order struct {
	ID     int64  `db:"id" json:"id"`
	Number string `db:"number" json:"number"`
}

// packedWithin is how long after a carton somebody is counted on to pack the next.
const packedWithin = 30 * time.Minute

func readForecast(
	ctx context.Context, q sqlx.QueryerContext, site int32, left Left, now time.Time,
) (Forecast, error) {
	out := Forecast{Still: []outbound.Still{}, Collections: []Outlook{}}
	departures, err := readDepartures(ctx, q, site, now)
	if err != nil {
		return out, err
	}
	groups := make([][]int64, len(departures))
	for i, d := range departures {
		for _, o := range d.orders {
			groups[i] = append(groups[i], o.ID)
		}
	}
	work, err := left(ctx, q, site, groups, now)
	if err != nil {
		return out, err
	}
	h, err := readHouse(ctx, q, site, now)
	if err != nil {
		return out, err
	}
	out.Walkers, out.Packers, out.PlannedAt = work.Walkers, h.Packers, work.PlannedAt
	out.Still = append(out.Still, work.Still...)
	h.gather(departures, work, now)
	for i, ready := range h.Run()[:len(departures)] {
		o := h.outlook(departures[i], i, ready, now)
		for _, order := range departures[i].orders {
			o.Lacking = o.Lacking.Add(work.Lacking[order.ID])
		}
		out.Collections = append(out.Collections, o)
	}
	return out, nil
}

// house is the work of a site.
type house struct{ forecast.House }

// readHouse reads what stands at the bench and at the gate, and the pace there.
func readHouse(ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time) (house, error) {
	h := house{forecast.House{AtBench: map[int64]int{}, Packed: map[int64]int{}, Of: map[int64]int{}}}
	var rows []struct {
		Order   int64 `db:"order_id"`
		AtBench int   `db:"at_bench"`
		Packed  int   `db:"packed"`
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT order_id, count(*) FILTER (WHERE state = 'at_bench') AS at_bench,
		       count(*) FILTER (WHERE state = 'packed') AS packed
		  FROM carton_work WHERE site_id = $1 AND order_id IS NOT NULL AND state IN ('at_bench', 'packed') GROUP BY 1`,
		site); err != nil {
		return h, fmt.Errorf("reading what stands at the bench: %w", err)
	}
	for _, r := range rows {
		h.AtBench[r.Order], h.Packed[r.Order] = r.AtBench, r.Packed
	}
	var pace struct{ Pack, Load float64 }
	if err := sqlx.GetContext(ctx, q, &pace, `
		SELECT (pace_pack / 60)::float8 AS pack, (pace_load / 60)::float8 AS load FROM sites WHERE id = $1`,
		site); err != nil {
		return h, fmt.Errorf("reading the pace of the bench: %w", err)
	}
	h.Pack, h.Load = pace.Pack, pace.Load
	err := sqlx.GetContext(ctx, q, &h.Packers, `
		SELECT count(DISTINCT po.person_id) FROM postings po JOIN moves m ON m.posting_id = po.id
		  JOIN locations l ON l.id = m.to_location
		 WHERE po.kind = 'pack' AND l.site_id = $1 AND po.entered_at > $2`, site, now.Add(-packedWithin))
	if err != nil {
		return h, fmt.Errorf("reading who packs: %w", err)
	}
	return h, nil
}

// gather puts the work to its collections; what goes with none of them comes after all.
func (h *house) gather(departures []Departure, work outbound.Left, now time.Time) {
	h.Walkers, h.Rounds = work.Walkers, work.Rounds
	for i, d := range departures {
		at := math.Inf(1)
		if d.At != nil {
			at = d.At.Sub(now).Minutes()
		}
		h.Collections = append(h.Collections, at)
		for _, o := range d.orders {
			h.Of[o.ID] = i
		}
	}
	h.Collections = append(h.Collections, math.Inf(1))
	other := func(order int64) {
		if _, due := h.Of[order]; !due {
			h.Of[order] = len(departures)
		}
	}
	for _, r := range h.Rounds {
		for _, p := range r.Parts {
			other(p.Order)
		}
	}
	for order := range h.AtBench {
		other(order)
	}
	for order := range h.Packed {
		other(order)
	}
}

func (h *house) outlook(d Departure, i int, ready forecast.Ready, now time.Time) Outlook {
	out := Outlook{Carrier: d.Carrier, At: d.At, Made: ready.Made()}
	if ready.At > 0 {
		out.ReadyAt = later(now, ready.At)
	}
	if d.At != nil {
		out.Spare = int(math.Floor(ready.Spare))
	}
	if out.Made {
		return out
	}
	help := h.Help(i)
	out.Help = &Help{OneMoreAt: *later(now, help.OneMore.At), Leave: []Order{}}
	if help.Waits {
		out.Help.ReleaseAt = later(now, help.ReleaseNow.At)
	}
	if len(help.Leave) == 0 {
		return out
	}
	out.Help.LeaveAt = later(now, help.Left.At)
	for _, o := range d.orders {
		if slices.Contains(help.Leave, o.ID) {
			out.Help.Leave = append(out.Help.Leave, o)
		}
	}
	return out
}

func later(now time.Time, minutes float64) *time.Time {
	at := now.Add(time.Duration(minutes * float64(time.Minute)))
	return &at
}
