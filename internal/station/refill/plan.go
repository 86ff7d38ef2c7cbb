package refill

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strconv"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refilling"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/core/walking"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Wish is what is to be refilled, and on walks of what size.
type Wish struct {
	SiteID int32 `json:"site_id"`
	// Until is the last day whose orders are looked at; all released ones without.
	Until string `json:"until,omitempty" maxLength:"10" doc:"Only what orders want up to this day"`
	// Levels narrows it to these picking bins; all that are short without.
	Levels   []int64 `json:"levels,omitempty" maxItems:"2000"`
	MaxLines int     `json:"max_lines,omitempty" minimum:"0" maximum:"200" doc:"The most lines of one walk; 40 without"`
	MaxKg    float64 `json:"max_kg,omitempty" minimum:"0" maximum:"10000" doc:"The most kg on the trolley; any weight without. A carton or pallet goes whole, though it is heavier"`
}

// usualLines is how many lines a walk has at most, where nothing else is wished for.
const usualLines = 40

// A Fetch is one line of a refill before it is made.
type Fetch struct {
	SKU      string          `json:"sku"`
	Item     string          `json:"item"`
	Unit     string          `json:"unit"`
	Lot      string          `json:"lot"`
	Expires  string          `json:"expires"`
	Carton   string          `json:"carton"`
	Whole    bool            `json:"whole" doc:"Whether the carton or pallet goes as it is"`
	From     string          `json:"from"`
	To       string          `json:"to"`
	Quantity decimal.Decimal `json:"quantity"`

	from  reserve
	to    Level
	kg    decimal.Decimal
	steps [2]int
}

// Walk is one walk of a plan.
type Walk struct {
	Fetches []Fetch         `json:"fetches" doc:"In the order in which they are fetched"`
	Metres  float64         `json:"metres"`
	Kg      decimal.Decimal `json:"kg"`
}

// A Lack is what a picking bin needs and no reserve has.
type Lack struct {
	Bin      string          `json:"bin"`
	SKU      string          `json:"sku"`
	Quantity decimal.Decimal `json:"quantity"`
}

// Plan is what refilling would do.
type Plan struct {
	Walks  []Walk `json:"walks"`
	Lacks  []Lack `json:"lacks"`
	Button string `json:"button"`
}

// NewPlan plans the walks that fill what is short.
func NewPlan(ctx context.Context, q sqlx.QueryerContext, in Wish, now time.Time) (Plan, error) {
	out := Plan{Walks: []Walk{}, Lacks: []Lack{}}
	levels, err := readLevels(ctx, q, in.SiteID, in.Until)
	if err != nil {
		return out, err
	}
	byBin, bins, items := map[[2]string]Level{}, []refilling.Bin{}, []int32{}
	for _, l := range levels {
		if len(in.Levels) > 0 && !slices.Contains(in.Levels, l.ID) {
			continue
		}
		byBin[[2]string{l.Bin, l.SKU}] = l
		bins, items = append(bins, l.bin), append(items, l.ItemID)
	}
	stock, err := readReserve(ctx, q, in.SiteID, items, now)
	if err != nil {
		return out, err
	}
	offered := make([]refilling.Stock, len(stock))
	for i, s := range stock {
		// Its place is named by its index, so that what is moved is known again.
		offered[i] = refilling.Stock{Place: strconv.Itoa(i), Item: s.SKU, Lot: s.Lot, Carton: s.Carton, Mixed: !s.Alone,
			Expires: s.Expires, Arrived: s.Arrived, Quantity: s.Quantity}
	}
	plan := refilling.Refill(bins, offered)
	var fetches []Fetch
	for _, m := range plan.Moves {
		i, _ := strconv.Atoi(m.From)
		fetches = append(fetches, fetchOf(m, stock[i], byBin[[2]string{m.To, m.Item}]))
	}
	for _, s := range plan.Shortages {
		out.Lacks = append(out.Lacks, Lack{s.Bin, s.Item, s.Quantity})
	}
	if out.Walks, err = walks(ctx, q, in, fetches); err != nil {
		return out, err
	}
	out.Button = fmt.Sprintf("Make %s of %s", measure.Count(len(out.Walks), "refill"), measure.Count(len(fetches), "line"))
	return out, nil
}

func fetchOf(m refilling.Move, s reserve, to Level) Fetch {
	return Fetch{SKU: s.SKU, Item: to.Item, Unit: to.Unit, Lot: s.Lot, Expires: s.Expires, Carton: s.Carton, Whole: m.Whole,
		From: s.Bin, To: to.Bin, Quantity: m.Quantity, from: s, to: to, kg: m.Quantity.Mul(to.WeightKg)}
}

// walks parts fetches into walks that a trolley takes, by where they are fetched, and finds a short way for each.
func walks(ctx context.Context, q sqlx.QueryerContext, in Wish, fetches []Fetch) ([]Walk, error) {
	out := []Walk{}
	if len(fetches) == 0 {
		return out, nil
	}
	most := cmp.Or(in.MaxLines, usualLines)
	slices.SortStableFunc(fetches, func(a, b Fetch) int { return cmp.Compare(a.From, b.From) })
	for _, f := range fetches {
		n := len(out) - 1
		if n < 0 || len(out[n].Fetches) >= most ||
			in.MaxKg > 0 && out[n].Kg.Add(f.kg).GreaterThan(decimal.NewFromFloat(in.MaxKg)) {
			out, n = append(out, Walk{}), n+1
		}
		out[n].Fetches, out[n].Kg = append(out[n].Fetches, f), out[n].Kg.Add(f.kg)
	}
	bench, floor, err := catalog.BenchAndFloor(ctx, q, in.SiteID)
	if err != nil {
		return nil, err
	}
	places, err := pointsOf(ctx, q, fetches)
	if err != nil {
		return nil, err
	}
	for i := range out {
		if err := out[i].route(floor, bench.Point(), places); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// route finds a short way, and puts the fetches into the order in which it meets them.
func (w *Walk) route(floor walking.Floor, start walking.Point, places map[int32]walking.Point) error {
	carries := make([]walking.Carry, len(w.Fetches))
	for i, f := range w.Fetches {
		carries[i] = walking.Carry{From: floor.Reach(places[f.from.LocationID]), To: floor.Reach(places[f.to.LocationID])}
	}
	way, err := walking.Carried(floor, floor.Nearest(start), carries)
	if err != nil {
		return fmt.Errorf("planning a refill: %w", err)
	}
	for n, s := range way.Steps {
		side := 0
		if s.Bring {
			side = 1
		}
		w.Fetches[s.Carry].steps[side] = n + 1
	}
	w.Metres = catalog.Tenth(way.Metres)
	slices.SortFunc(w.Fetches, func(a, b Fetch) int { return a.steps[0] - b.steps[0] })
	return nil
}

// pointsOf reads where the places of fetches are.
func pointsOf(ctx context.Context, q sqlx.QueryerContext, fetches []Fetch) (map[int32]walking.Point, error) {
	var ids []int32
	for _, f := range fetches {
		ids = append(ids, f.from.LocationID, f.to.LocationID)
	}
	var rows []struct {
		ID   int32
		X, Y float64
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `SELECT id, x, y FROM locations WHERE id = ANY($1)`, ids); err != nil {
		return nil, fmt.Errorf("reading where bins are: %w", err)
	}
	out := map[int32]walking.Point{}
	for _, r := range rows {
		out[r.ID] = walking.Point{X: r.X, Y: r.Y}
	}
	return out, nil
}

// Make plans anew and writes the walks down.
func Make(ctx context.Context, tx *command.Tx, in Wish) ([]Refill, error) {
	if err := tx.At(ctx, in.SiteID); err != nil {
		return nil, err
	}
	// Two who make refills at once would fetch the same goods twice.
	if _, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock(hashtext('refills'), $1)`, in.SiteID); err != nil {
		return nil, fmt.Errorf("making refills one after another: %w", err)
	}
	plan, err := NewPlan(ctx, tx, in, tx.Now)
	if err != nil {
		return nil, err
	}
	if len(plan.Walks) == 0 {
		return nil, nothingToFetch(plan.Lacks)
	}
	trolley, err := catalog.OneLocation(ctx, tx, in.SiteID, "trolley")
	if err != nil {
		return nil, err
	}
	out := []Refill{}
	for _, w := range plan.Walks {
		id, err := w.write(ctx, tx, in.SiteID, trolley.ID)
		if err != nil {
			return nil, err
		}
		r, err := read(ctx, tx, id)
		if err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	tx.NotifySite(in.SiteID, ledger.Topics("refills", "transfers", "row")...)
	return out, nil
}

// nothingToFetch says why no refill is made.
func nothingToFetch(lacks []Lack) error {
	if len(lacks) > 0 {
		return refusal.New(refusal.NothingToTake, "", "%s short, and no reserve has what is needed: %s needs %s of %s. Receive or buy it, or take "+
			"what is reserved into account.", measure.Count(len(lacks), "picking bin is"), lacks[0].Bin, lacks[0].Quantity,
			lacks[0].SKU).Of(refusal.Conflict)
	}
	return refusal.New(refusal.NothingToTake, "", "No picking bin is short: all hold their least, and what released orders want.").
		Of(refusal.Conflict)
}

func (w Walk) write(ctx context.Context, tx *command.Tx, site, trolley int32) (id int64, err error) {
	err = tx.GetContext(ctx, &id, `
		INSERT INTO refills (site_id, trolley_id, state, metres, made_by, made_at, changed_by, changed_at, last_change)
		VALUES ($1, $2, $3, $4, $6, $5, $6, $5, 'made it') RETURNING id`,
		site, trolley, states.RefillPlanned, w.Metres, tx.Now, tx.Person.ID)
	if err != nil {
		return 0, fmt.Errorf("writing a refill: %w", err)
	}
	for _, f := range w.Fetches {
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO refill_moves (refill_id, item_id, lot_id, carton_id, whole, from_id, to_id, quantity, fetch_at, bring_at)
			VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`, id, f.from.ItemID, f.from.LotID, f.from.CartonID, f.Whole,
			f.from.LocationID, f.to.LocationID, f.Quantity, f.steps[0], f.steps[1]); err != nil {
			return 0, fmt.Errorf("writing a line of a refill: %w", err)
		}
	}
	return id, nil
}
