package putaway

import (
	"context"
	"fmt"
	"slices"
	"sort"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/slotting"
	"lanternrow/internal/core/walking"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Load is a trolley to be filled for one walk.
type Load struct {
	SiteID int32   `json:"site_id"`
	Goods  []Goods `json:"goods" maxItems:"60"`
}

// WalkRow is an open walk in a list.
type WalkRow struct {
	ID       int64           `db:"id" json:"id"`
	Number   string          `db:"number" json:"number"`
	PersonID int32           `db:"person_id" json:"person_id"`
	Person   string          `db:"person" json:"person"`
	BegunAt  time.Time       `db:"begun_at" json:"begun_at"`
	Lines    int             `db:"lines" json:"lines"`
	Units    decimal.Decimal `db:"units" json:"units"`
}

// Walk is one walk through the bins with a trolley full of goods.
type Walk struct {
	ID        int64  `db:"id" json:"id"`
	Number    string `db:"number" json:"number"`
	SiteID    int32  `db:"site_id" json:"site_id"`
	FromID    int32  `db:"from_id" json:"from_id"`
	TrolleyID int32  `db:"trolley_id" json:"trolley_id"`
	Person    string `db:"person" json:"person"`
	Done      bool   `db:"done" json:"done"`
	// Stops are what is still on the trolley, bin by bin in the order of the shortest
	// walk; Metres is its length, from where the goods were and back.
	Stops  []WalkStop `db:"-" json:"stops"`
	Metres float64    `db:"-" json:"metres"`
	// Unassigned are goods that no bin can take.
	Unassigned []OnTrolley `db:"-" json:"unassigned"`
}

// OnTrolley is goods on a walk's trolley.
type OnTrolley struct {
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	LotID       *int64          `db:"lot_id" json:"lot_id"`
	Lot         *string         `db:"lot" json:"lot"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	Serials     []string        `db:"-" json:"serials" doc:"The units, where they are known one by one"`
}

// WalkStop is goods that go into one bin.
type WalkStop struct {
	OnTrolley
	Bin string   `json:"bin"`
	Why []string `json:"why"`
}

// PutAwayStop is what was put into a bin on a walk.
type PutAwayStop struct {
	Bin      string `json:"bin" maxLength:"60"`
	ItemID   int32  `json:"item_id"`
	LotID    *int64 `json:"lot_id,omitempty"`
	Quantity string `json:"quantity" maxLength:"40"`
	// Serials name the units, where they are known one by one and not all are meant.
	Serials []string `json:"serials,omitempty" maxItems:"1000"`
}

// BeginWalk takes goods onto a trolley and plans the walk through their bins.
func BeginWalk(ctx context.Context, tx *command.Tx, in Load) (Walk, error) {
	if len(in.Goods) == 0 {
		return Walk{}, refusal.New(refusal.NothingMoves, "goods",
			"Nothing is on the trolley. Scan the goods that are put away on this walk.")
	}
	trolley, err := catalog.OneLocation(ctx, tx, in.SiteID, "trolley")
	if err != nil {
		return Walk{}, err
	}
	moves, arrivals, err := in.moves(ctx, tx, trolley.ID)
	if err != nil {
		return Walk{}, err
	}
	if err := reservation.HoldReservedAt(ctx, tx, locations(in.Goods)...); err != nil {
		return Walk{}, err
	}
	var walk Walk
	err = tx.GetContext(ctx, &walk, `
		INSERT INTO put_away_walks (site_id, from_id, trolley_id, person_id, begun_at) VALUES ($1, $2, $3, $4, $5)
		RETURNING id, number`,
		in.SiteID, in.Goods[0].LocationID, trolley.ID, tx.Person.ID, tx.Now)
	if err != nil {
		return Walk{}, fmt.Errorf("beginning a walk: %w", err)
	}
	if err := reservation.PostCarrying(ctx, tx, ledger.Head{Kind: posting.PutAwayLoad, Document: walk.Number},
		moves); err != nil {
		return Walk{}, err
	}
	for i, m := range moves {
		units := []string{}
		if m.SerialCode != "" {
			units = append(units, m.SerialCode)
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO put_away_loads (walk_id, item_id, lot_id, quantity, serials, arrival)
			VALUES ($1, $2, $3, $4, $5, $6)
			ON CONFLICT (walk_id, item_id, coalesce(lot_id, 0)) DO UPDATE SET quantity = put_away_loads.quantity + $4,
			serials = put_away_loads.serials || $5`, walk.ID, m.Item, m.Lot, m.Quantity, units, arrivals[i]); err != nil {
			return Walk{}, fmt.Errorf("loading a trolley: %w", err)
		}
	}
	tx.NotifySite(in.SiteID, ledger.Topics("putaway", "row")...)
	return readWalk(ctx, tx, walk.ID)
}

// moves takes the goods onto the trolley, and names beside each move the arrival that brought
// its goods.
func (in Load) moves(
	ctx context.Context, tx *command.Tx, trolley int32,
) (moves []ledger.Move, arrivals []string, err error) {
	for i, g := range in.Goods {
		s, err := readGoods(ctx, tx, g)
		if err != nil {
			if r := refusal.From(err); r != nil {
				return nil, nil, r.At(fmt.Sprintf("goods[%d].%s", i, r.Field))
			}
			return nil, nil, err
		}
		if *s.from.SiteID != in.SiteID {
			return nil, nil, refusal.New(refusal.BinElsewhere, fmt.Sprintf("goods[%d].location_id", i),
				"%s is not at this site. One walk stays within one site.", s.from.Code)
		}
		each, err := serials.Spread(ctx, tx, fmt.Sprintf("goods[%d].serials", i), s.item.Tracking, s.item.SKU,
			ledger.Move{Item: g.ItemID, Lot: g.LotID, Quantity: s.Quantity, From: g.LocationID,
				To: trolley}, g.Serials)
		if err != nil {
			return nil, nil, err
		}
		arrival, err := inbound.OriginOf(ctx, tx, g.LocationID, g.ItemID, g.LotID)
		if err != nil {
			return nil, nil, err
		}
		arrivals = append(arrivals, slices.Repeat([]string{arrival}, len(each))...)
		moves = append(moves, each...)
	}
	return moves, arrivals, nil
}

// locations are where goods lie.
func locations(of []Goods) []int32 {
	out := make([]int32, len(of))
	for i, g := range of {
		out[i] = g.LocationID
	}
	return out
}

// readWalk reads a walk and plans what is left of it anew: bins fill and empty while
// somebody walks.
func readWalk(ctx context.Context, q sqlx.QueryerContext, id int64) (Walk, error) {
	w := Walk{Stops: []WalkStop{}, Unassigned: []OnTrolley{}}
	err := sqlx.GetContext(ctx, q, &w, `
		SELECT w.id, w.number, w.site_id, w.from_id, w.trolley_id, p.name AS person, w.done_at IS NOT NULL AS done
		  FROM put_away_walks w JOIN people p ON p.id = w.person_id WHERE w.id = $1`, id)
	if err != nil {
		return w, documents.Found(err, "walk", fmt.Sprint(id))
	}
	loads, err := readLoads(ctx, q, id)
	if err != nil || len(loads) == 0 {
		return w, err
	}
	from, err := catalog.LocationByID(ctx, q, w.FromID)
	if err != nil {
		return w, err
	}
	bins, err := catalog.Bins(ctx, q, w.SiteID, from, nil)
	if err != nil {
		return w, err
	}
	shelves := make([]slotting.Bin, len(bins))
	where := map[string]walking.Point{}
	for i, b := range bins {
		shelves[i], where[b.Code] = b.Bin, b.At
	}
	plan := slotting.NewPlan(shelves)
	for _, l := range loads {
		proposal, err := plan.Location(l.goods())
		if err != nil {
			return w, err
		}
		units := l.Serials
		for _, location := range proposal.Locations {
			part := l.OnTrolley
			part.Quantity, part.Serials = location.Quantity, []string{}
			if n := int(location.Quantity.IntPart()); n <= len(units) {
				part.Serials, units = units[:n:n], units[n:]
			}
			w.Stops = append(w.Stops, WalkStop{part, location.Bin, location.Why})
		}
		if proposal.Left.IsPositive() {
			l.Quantity, l.Serials = proposal.Left, units
			w.Unassigned = append(w.Unassigned, l.OnTrolley)
		}
	}
	return w, w.order(ctx, q, from, where)
}

// order puts the stops into the order of the shortest walk; those at one bin stay
// together.
func (w *Walk) order(
	ctx context.Context, q sqlx.QueryerContext, from catalog.Location, where map[string]walking.Point,
) error {
	if len(w.Stops) == 0 {
		return nil
	}
	floor, err := catalog.FloorOf(ctx, q, w.SiteID)
	if err != nil {
		return err
	}
	sort.SliceStable(w.Stops, func(i, j int) bool { return w.Stops[i].Bin < w.Stops[j].Bin })
	points := make([]walking.Point, len(w.Stops))
	for i, s := range w.Stops {
		points[i] = where[s.Bin]
	}
	round, err := walking.Shortest(floor, floor.Nearest(from.Point()), points)
	if err != nil {
		return fmt.Errorf("planning a walk: %w", err)
	}
	ordered := make([]WalkStop, len(w.Stops))
	for i, at := range round.Order {
		ordered[i] = w.Stops[at]
	}
	w.Stops, w.Metres = ordered, catalog.Tenth(round.Metres)
	return nil
}

// PutAwayOnWalk puts away what was put into a bin; any bin that can take it may be chosen.
func PutAwayOnWalk(ctx context.Context, tx *command.Tx, id int64, in PutAwayStop) (Walk, error) {
	w, load, err := hold(ctx, tx, id, in.ItemID, in.LotID)
	if err != nil {
		return w, err
	}
	quantity, err := measure.Parse("quantity", in.Quantity, measure.Unit{Name: load.Unit, Whole: load.Whole})
	if err != nil {
		return w, err
	}
	if quantity.GreaterThan(load.Quantity) {
		return w, refusal.New(refusal.NotEnough, "quantity", "%s of %s are on the trolley of %s, not %s.",
			load.Quantity, load.SKU, w.Number, quantity).Of(refusal.Conflict).With("have", load.Quantity)
	}
	units, err := load.take(in.Serials, quantity)
	if err != nil {
		return w, err
	}
	plan, err := planPutAway(ctx, tx, Spread{Goods: Goods{LocationID: w.TrolleyID, ItemID: in.ItemID, LotID: in.LotID,
		Quantity: in.Quantity}, Locations: []SpreadPart{{Bin: in.Bin, Quantity: in.Quantity, Serials: units}}})
	if err != nil {
		return w, err
	}
	if err := reservation.PostCarrying(ctx, tx, load.head(w),
		plan.MoveList()); err != nil {
		return w, err
	}
	if err := unload(ctx, tx, w, load, quantity, units); err != nil {
		return w, err
	}
	return readWalk(ctx, tx, id)
}

// head is how goods of the load are posted into a bin: with the arrival that brought them,
// where one did, and the walk.
func (l load) head(w Walk) ledger.Head {
	if l.Arrival == "" {
		return ledger.Head{Kind: posting.PutAway, Document: w.Number}
	}
	return ledger.Head{Kind: posting.PutAway, Document: l.Arrival, Note: w.Number}
}

// EndWalk sets what is left on the trolley back where it came from.
func EndWalk(ctx context.Context, tx *command.Tx, id int64) (Walk, error) {
	w, err := holdWalk(ctx, tx, id)
	if err != nil {
		return w, err
	}
	loads, err := readLoads(ctx, tx, id)
	if err != nil {
		return w, err
	}
	var moves []ledger.Move
	for _, l := range loads {
		each, err := serials.Spread(ctx, tx, "serials", l.Tracking, l.SKU, ledger.Move{Item: l.ItemID, Lot: l.LotID,
			Quantity: l.Quantity, From: w.TrolleyID, To: w.FromID}, l.Serials)
		if err != nil {
			return w, err
		}
		moves = append(moves, each...)
	}
	if err := reservation.PostCarrying(ctx, tx, ledger.Head{Kind: posting.PutAwayReturn, Document: w.Number},
		moves); err != nil {
		return w, err
	}
	for _, l := range loads {
		if err := unload(ctx, tx, w, l, l.Quantity, l.Serials); err != nil {
			return w, err
		}
	}
	return readWalk(ctx, tx, id)
}

// hold keeps a walk to this transaction, and finds the goods on it.
func hold(ctx context.Context, tx *command.Tx, id int64, item int32, lot *int64) (Walk, load, error) {
	w, err := holdWalk(ctx, tx, id)
	if err != nil {
		return w, load{}, err
	}
	loads, err := readLoads(ctx, tx, id)
	if err != nil {
		return w, load{}, err
	}
	for _, l := range loads {
		if l.ItemID == item && ledger.Same(l.LotID, lot) {
			return w, l, nil
		}
	}
	return w, load{}, refusal.New(refusal.NotOnTrolley, "item_id",
		"These goods are not on the trolley of %s. Look at the list, or begin another walk for them.", w.Number).Of(refusal.Conflict)
}

func holdWalk(ctx context.Context, tx *command.Tx, id int64) (w Walk, err error) {
	if err := documents.Hold(ctx, tx, documents.Own(documents.PutawayWalk, id)); err != nil {
		return w, err
	}
	err = tx.GetContext(ctx, &w, `
		SELECT id, number, site_id, from_id, trolley_id, done_at IS NOT NULL AS done FROM put_away_walks
			    WHERE id = $1`, id)
	if err != nil {
		return w, documents.Found(err, "walk", fmt.Sprint(id))
	}
	if w.Done {
		return w, refusal.New(refusal.WalkDone, "", "%s is done: nothing is on its trolley any more.",
			w.Number).Of(refusal.Conflict)
	}
	return w, reservation.HoldReservedAt(ctx, tx, w.TrolleyID)
}

// take names the units of a load that are put down: those that were scanned, or all
// when all of it is.
func (l load) take(scanned []string, quantity decimal.Decimal) ([]string, error) {
	if l.Tracking != receiving.Serial {
		return scanned, nil
	}
	if len(scanned) == 0 && quantity.Equal(l.Quantity) {
		return l.Serials, nil
	}
	if len(scanned) == 0 {
		return nil, refusal.New(refusal.SerialsMissing, "serials",
			"%s of %s are on the trolley, and %s go here: say which. Scan their serials.", l.Quantity, l.SKU, quantity)
	}
	for _, code := range scanned {
		if !slices.Contains(l.Serials, code) {
			return nil, refusal.New(refusal.SerialElsewhere, "serials",
				"Serial %s of %s is not on this trolley: %s are.", code, l.SKU, receiving.SerialRanges(l.Serials)).Of(refusal.Conflict)
		}
	}
	return scanned, nil
}

func unload(ctx context.Context, tx *command.Tx, w Walk, l load, quantity decimal.Decimal, units []string) error {
	left := l.Quantity.Sub(quantity)
	var err error
	if left.IsPositive() {
		_, err = tx.ExecContext(ctx, `
			UPDATE put_away_loads SET quantity = $4,
			  serials = ARRAY(SELECT s FROM unnest(serials) AS s WHERE NOT s = ANY($5::text[])) WHERE walk_id = $1
			  AND item_id = $2 AND coalesce(lot_id, 0) = coalesce($3, 0)`, w.ID, l.ItemID, l.LotID, left, units)
	} else {
		_, err = tx.ExecContext(ctx, `
			DELETE FROM put_away_loads WHERE walk_id = $1 AND item_id = $2 AND coalesce(lot_id, 0) = coalesce($3,
			0)`, w.ID, l.ItemID, l.LotID)
	}
	if err == nil {
		_, err = tx.ExecContext(ctx, `
			UPDATE put_away_walks SET done_at = $2
			 WHERE id = $1 AND NOT EXISTS (SELECT FROM put_away_loads WHERE walk_id = $1)`, w.ID, tx.Now)
	}
	if err != nil {
		return fmt.Errorf("unloading a trolley: %w", err)
	}
	tx.NotifySite(w.SiteID, ledger.Topics("putaway", "row")...)
	return nil
}
