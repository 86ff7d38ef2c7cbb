package pick

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"lanternrow/internal/core/states"
	"lanternrow/internal/countrequests"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// openLine is an order line that still wants stock.
type openLine struct {
	ID       int64           `db:"id"`
	OrderID  int64           `db:"order_id"`
	Order    string          `db:"order_number"`
	Customer string          `db:"customer"`
	Carrier  string          `db:"carrier"`
	WantedOn string          `db:"wanted_on"`
	Late     bool            `db:"late"`
	State    states.Outbound `db:"state"`
	SiteID   int32           `db:"site_id"`
	ItemID   int32           `db:"item_id"`
	SKU      string          `db:"sku"`
	Text     string          `db:"description"`
	Unit     string          `db:"unit"`
	Whole    bool            `db:"whole"`
	WeightKg decimal.Decimal `db:"weight_kg"`
	VolumeL  decimal.Decimal `db:"volume_l"`
	LifeOut  int             `db:"life_out"`
	Open     decimal.Decimal `db:"open"`
}

const lineColumns = `
	SELECT l.id, o.id AS order_id, o.number AS order_number, o.recipient AS customer, o.carrier,
	       to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on, o.wanted_on < current_date AS late,
	       o.state, o.site_id, i.id AS item_id, i.sku, i.description, i.base_unit AS unit, i.whole, i.weight_kg,
	       i.volume_l, i.life_out, l.due - l.planned AS open
	  FROM outbound_lines l JOIN outbound o ON o.id = l.order_id JOIN items i ON i.id = l.item_id `

func openLines(ctx context.Context, q sqlx.QueryerContext, orders []int64) ([]openLine, error) {
	return readLines(ctx, q, `WHERE o.id = ANY($1) AND l.due > l.planned ORDER BY o.wanted_on, o.id, l.line`, orders)
}

// pickableLines are the open lines of a site's orders that are released.
func pickableLines(ctx context.Context, q sqlx.QueryerContext, site int32) ([]openLine, error) {
	return readLines(ctx, q, `
		WHERE o.site_id = $1 AND o.state = 'released' AND l.due > l.planned ORDER BY o.wanted_on, o.id, l.line`, site)
}

func readLines(ctx context.Context, q sqlx.QueryerContext, where string, args ...any) ([]openLine, error) {
	var lines []openLine
	if err := sqlx.SelectContext(ctx, q, &lines, lineColumns+where, args...); err != nil {
		return nil, fmt.Errorf("reading order lines: %w", err)
	}
	return lines, nil
}

func linesByID(ctx context.Context, q sqlx.QueryerContext, ids []int64) (map[int64]openLine, error) {
	lines, err := readLines(ctx, q, `WHERE l.id = ANY($1)`, ids)
	out := make(map[int64]openLine, len(lines))
	for _, l := range lines {
		out[l.ID] = l
	}
	return out, err
}

// shelf is stock in a bin that can be picked.
type shelf struct {
	LocationID int32           `db:"location_id"`
	Bin        string          `db:"bin"`
	Zone       string          `db:"zone"`
	X          float64         `db:"x"`
	Y          float64         `db:"y"`
	ItemID     int32           `db:"item_id"`
	LotID      *int64          `db:"lot_id"`
	Lot        string          `db:"lot"`
	Expires    string          `db:"expires"`
	Arrived    string          `db:"arrived"`
	CartonID   *int64          `db:"carton_id"`
	Carton     string          `db:"carton"`
	SerialID   *int64          `db:"-"`
	Serial     string          `db:"-"`
	Available  decimal.Decimal `db:"available"`
	// Whole is true for all that is in one carton or pallet.
	Whole bool `db:"whole"`
	// Refilled is true for a picking bin of the item that is kept filled from reserve.
	Refilled bool `db:"refilled"`
	// mine is true for what is reserved for the very line it is offered to.
	mine bool
}

// shelves reads what can be picked of the items: from bins, and from docks where the
// site does not insist on bins; or else from these locations alone, docks among them. What
// was found short is left alone until it is counted.
func shelves(ctx context.Context, q sqlx.QueryerContext, site int32, items, only []int32) ([]shelf, error) {
	var out []shelf
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT p.id AS location_id, p.code AS bin, coalesce(z.code, '') AS zone, p.x, p.y, b.item_id, b.lot_id,
		       coalesce(l.code, '') AS lot, coalesce(to_char(l.expires_on, 'YYYY-MM-DD'), '') AS expires,
		       coalesce(to_char(l.arrived_on, 'YYYY-MM-DD'), '') AS arrived, b.carton_id,
		       coalesce(c.sscc, '') AS carton, b.available,
		       b.carton_id IS NOT NULL AND b.available = (SELECT sum(quantity) FROM balances
		         WHERE carton_id = b.carton_id) AS whole,
		       EXISTS (SELECT FROM refilled_bins r WHERE r.location_id = b.location_id AND r.item_id = b.item_id) AS refilled
		  FROM (SELECT location_id, item_id, lot_id, carton_id, sum(quantity - reserved) AS available FROM balances
		         WHERE item_id = ANY($2) AND quantity > reserved AND condition = 'good' GROUP BY 1, 2, 3, 4) AS b
		  JOIN locations p ON p.id = b.location_id JOIN sites s ON s.id = p.site_id
		  LEFT JOIN zones z ON z.id = p.zone_id LEFT JOIN lots l ON l.id = b.lot_id
		  LEFT JOIN cartons c ON c.id = b.carton_id
		 WHERE p.site_id = $1 AND CASE WHEN $3::int[] IS NULL THEN p.kind = 'bin' OR p.kind = 'dock'
		   AND NOT s.insist_bins ELSE p.kind IN ('bin', 'dock') AND p.id = ANY($3) END
		   AND NOT EXISTS (SELECT FROM carton_work w WHERE w.carton_id = b.carton_id)
		   AND NOT EXISTS (SELECT FROM count_requests d WHERE d.location_id = b.location_id AND d.item_id = b.item_id
		     AND `+countrequests.Doubtful+`)
		 ORDER BY p.code, l.code, c.sscc`, site, items, only)
	if err != nil {
		return nil, fmt.Errorf("reading stock to pick: %w", err)
	}
	return out, nil
}

// toBeCounted are the bins of items where too few were found, and nobody has counted since.
func toBeCounted(ctx context.Context, q sqlx.QueryerContext, site int32, items []int32) (map[int32]string, error) {
	var rows []struct {
		Item int32 `db:"item_id"`
		Bins string
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT d.item_id, string_agg(DISTINCT p.code, ', ') AS bins FROM count_requests d
		  JOIN locations p ON p.id = d.location_id
		WHERE `+countrequests.Doubtful+` AND p.site_id = $1 AND d.item_id = ANY($2) GROUP BY 1`, site, items)
	if err != nil {
		return nil, fmt.Errorf("reading what is to be counted: %w", err)
	}
	out := map[int32]string{}
	for _, r := range rows {
		out[r.Item] = r.Bins
	}
	return out, nil
}

const roundColumns = `
	SELECT r.id, r.number, r.site_id, r.state, r.picker_id, coalesce(p.name, '') AS picker, r.metres, r.plain_metres,
	       r.minutes, r.each_unit, site.scan_bin, site.scan_item, site.scan_carton, coalesce(r.wave, 0) AS wave, r.path,
	       CASE WHEN r.state = 'walking' THEN greatest(now(), r.started_at) + make_interval(secs => (r.minutes * 60 *
	           (SELECT 1 - count(*) FILTER (WHERE state <> 'open')::numeric / greatest(count(*), 1) FROM round_stops
	           WHERE round_id = r.id))::float8) END AS ends_at, r.released_at, r.version,
	       (SELECT count(*) FROM round_stops WHERE round_id = r.id) AS stop_count,
	       (SELECT count(*) FROM round_stops WHERE round_id = r.id AND state <> 'open') AS done_count,
	       coalesce((SELECT f.code FROM round_stops s JOIN locations f ON f.id = s.location_id WHERE s.round_id = r.id
	       AND s.state = 'open' ORDER BY s.seq LIMIT 1), '') AS next_bin,
	       (SELECT max(entered_at) FROM postings WHERE document = r.number AND document <> ''
	       AND kind = 'pick') AS last_pick,
	       coalesce((SELECT sum(short) FROM round_stops WHERE round_id = r.id), 0) AS short,
	       EXISTS (SELECT FROM round_stops s JOIN outbound_lines l ON l.id = s.line_id
	       JOIN outbound_orders o ON o.id = l.order_id WHERE s.round_id = r.id AND o.wanted_on < current_date) AS late
	  FROM rounds r JOIN sites site ON site.id = r.site_id LEFT JOIN people p ON p.id = r.picker_id `

func listRounds(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Round, error) {
	out := []Round{}
	if err := sqlx.SelectContext(ctx, q, &out, roundColumns+`
		WHERE r.state <> 'done' AND r.site_id = $1 ORDER BY r.id`, site); err != nil {
		return nil, fmt.Errorf("listing rounds: %w", err)
	}
	for i := range out {
		out[i].Stops, out[i].Cartons, out[i].Orders = []RoundStop{}, []Carton{}, []RoundOrder{}
	}
	return out, nil
}

// readRound reads a round with its stops, cartons and orders.
func readRound(ctx context.Context, q sqlx.QueryerContext, id int64) (Round, error) {
	rounds, err := readRounds(ctx, q, id)
	if err != nil {
		return Round{}, err
	}
	return rounds[0], nil
}

// readRounds reads rounds in the order of their ids as they are named, in as many
// statements as one of them.
func readRounds(ctx context.Context, q sqlx.QueryerContext, ids ...int64) ([]Round, error) {
	var rounds []Round
	if err := sqlx.SelectContext(ctx, q, &rounds, roundColumns+`
		WHERE r.id = ANY($1) ORDER BY array_position($1, r.id)`, ids); err != nil {
		return nil, fmt.Errorf("reading rounds: %w", err)
	}
	if len(rounds) != len(ids) {
		return nil, documents.Missing("round", fmt.Sprint(ids[0]))
	}
	stops, err := readStops(ctx, q, ids)
	if err != nil {
		return nil, err
	}
	cartons, err := readCartons(ctx, q, ids)
	if err != nil {
		return nil, err
	}
	for i := range rounds {
		r := &rounds[i]
		r.Stops, r.Cartons = append([]RoundStop{}, stops[r.ID]...), append([]Carton{}, cartons[r.ID]...)
		r.Orders = ordersOn(r.Stops)
	}
	return rounds, nil
}

// asksNought is whether a stop left a bin that is empty of the item by the books, and that nobody has looked into since
// or is to count.
const asksNought = `t.nought_check AND p.kind = 'bin' AND NOT EXISTS (
		           SELECT FROM balances b WHERE b.location_id = p.id AND b.item_id = i.id AND b.quantity > 0)
		         AND NOT EXISTS (SELECT FROM counts c WHERE c.location_id = p.id AND c.item_id = i.id
		           AND (c.state IN ('counted', 'recount') OR c.as_of >= (SELECT max(m.id) FROM moves m WHERE m.item_id = i.id AND m.from_location = p.id)))
		         AND NOT EXISTS (SELECT FROM count_sheet_lines x WHERE x.location_id = p.id AND x.item_id = i.id AND x.state = 'open')`

// readStops reads the stops of rounds, in the order they are walked, by round.
func readStops(ctx context.Context, q sqlx.QueryerContext, rounds []int64) (map[int64][]RoundStop, error) {
	var rows []struct {
		Round int64 `db:"round_id"`
		RoundStop
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT s.round_id, s.id, s.seq, s.line_id, o.id AS order_id, o.number AS order_number, p.id AS location_id,
		       p.code AS bin, i.id AS item_id, i.sku,
		       i.description, i.base_unit AS unit,
		       (SELECT gtin FROM packs WHERE item_id = i.id AND gtin IS NOT NULL ORDER BY holds LIMIT 1) AS gtin,
		       i.whole, i.tracking, i.life_out,
		       i.ask_out AND s.lot_id IS NOT NULL OR i.tracking = 'lot_out' AS ask_lot, l.id AS lot_id, l.code AS lot,
		       to_char(l.expires_on, 'YYYY-MM-DD') AS expires_on,
		       (SELECT json_agg(json_build_object('serial_id', u.serial_id, 'serial', n.code,
		                 'reservation_id', u.reservation_id) ORDER BY n.code)
		          FROM stop_units u JOIN serials n ON n.id = u.serial_id JOIN reservations x ON x.id = u.reservation_id
		         WHERE u.stop_id = s.id) AS units,
		       (SELECT code FROM lots WHERE id = s.planned_lot) AS planned_lot,
		       s.quantity, s.picked, s.short, s.state, s.reservation_id, s.carton_id, c.sscc AS off_carton,
		       s.carton_id IS NOT NULL AND s.picked = 0 AND s.short = 0 AND i.tracking NOT IN ('lot_out', 'serial_out')
		         AND s.quantity = (SELECT sum(quantity) FROM balances b
		           WHERE b.carton_id = s.carton_id) AS whole_carton,
		       coalesce((SELECT sum(quantity) FROM balances b WHERE b.location_id = p.id AND b.item_id = i.id
		                    AND coalesce(b.lot_id, 0) = coalesce(l.id, 0) AND b.quantity > 0), 0) AS here,
		       s.state = 'open' AND t.nought_check AND p.kind = 'bin' AND s.quantity - s.picked - s.short = (
		           SELECT sum(quantity) FROM balances b WHERE b.location_id = p.id AND b.item_id = i.id) AS empties,
		       s.state = 'picked' AND `+asksNought+` AS ask_nought,
		       CASE WHEN i.tracking = 'serial' AND s.state = 'open' THEN (
		            SELECT json_agg(u.code ORDER BY u.code) FROM balances b JOIN serials u ON u.id = b.serial_id
		             WHERE b.location_id = p.id AND b.item_id = i.id
		               AND coalesce(b.carton_id, 0) = coalesce(s.carton_id, 0)
		               AND b.condition = 'good'
		               AND CASE WHEN EXISTS (SELECT FROM stop_units WHERE stop_id = s.id)
		                 THEN EXISTS (SELECT FROM stop_units m JOIN reservations x ON x.id = m.reservation_id
		                              WHERE m.stop_id = s.id AND m.serial_id = b.serial_id)
		                 ELSE NOT EXISTS (SELECT FROM reservations x WHERE x.serial_id = b.serial_id) END) END AS serials,
		       CASE WHEN t.other_lot AND s.lot_id IS NOT NULL AND s.state = 'open' THEN (
		            SELECT json_agg(json_build_object('lot', f.code, 'expires_on', f.expires_on, 'free', f.free::text)
		                            ORDER BY f.expires_on, f.code)
		              FROM (SELECT o.code, o.expires_on, sum(b.quantity - b.reserved) AS free
		                      FROM balances b JOIN lots o ON o.id = b.lot_id
		                     WHERE b.location_id = p.id AND b.item_id = i.id AND b.lot_id <> s.lot_id
		                       AND b.carton_id IS NOT DISTINCT FROM s.carton_id AND b.condition = 'good'
		                       AND (o.expires_on IS NULL OR o.expires_on >= current_date + i.life_out)
		                     GROUP BY 1, 2 HAVING sum(b.quantity - b.reserved) > 0) AS f) END AS other_lots
		  FROM round_stops s JOIN outbound_lines sl ON sl.id = s.line_id JOIN outbound_orders o ON o.id = sl.order_id
		  JOIN locations p ON p.id = s.location_id JOIN sites t ON t.id = p.site_id JOIN items i ON i.id = s.item_id
		  LEFT JOIN lots l ON l.id = s.lot_id LEFT JOIN cartons c ON c.id = s.carton_id
		 WHERE s.round_id = ANY($1) ORDER BY s.round_id, s.seq`, rounds)
	if err != nil {
		return nil, fmt.Errorf("reading stops: %w", err)
	}
	out := map[int64][]RoundStop{}
	for _, row := range rows {
		s := row.RoundStop
		if err := s.unfold(); err != nil {
			return nil, err
		}
		out[row.Round] = append(out[row.Round], s)
	}
	return out, nil
}

// unfold reads what the database listed at a stop: its units, and lots to take instead.
func (s *RoundStop) unfold() error {
	s.Serials, s.OtherLots, s.Units = []string{}, []FreeLot{}, []StopUnit{}
	if len(s.ListedUnits) > 0 {
		if err := json.Unmarshal(s.ListedUnits, &s.Units); err != nil {
			return fmt.Errorf("reading the units reserved at a stop: %w", err)
		}
	}
	if len(s.Listed) > 0 {
		if err := json.Unmarshal(s.Listed, &s.Serials); err != nil {
			return fmt.Errorf("reading the units at a stop: %w", err)
		}
	}
	if len(s.ListedLots) > 0 {
		if err := json.Unmarshal(s.ListedLots, &s.OtherLots); err != nil {
			return fmt.Errorf("reading the lots at a stop: %w", err)
		}
	}
	return nil
}

// readCartons reads the cartons of rounds by their letters, by round.
func readCartons(ctx context.Context, q sqlx.QueryerContext, rounds []int64) (map[int64][]Carton, error) {
	var rows []struct {
		Round int64 `db:"round_id"`
		Carton
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT w.round_id, c.id, c.sscc, w.letter, w.order_id, coalesce(o.number, '') AS order_number, w.state
		  FROM carton_work w JOIN cartons c ON c.id = w.carton_id LEFT JOIN outbound_orders o ON o.id = w.order_id
		 WHERE w.round_id = ANY($1) ORDER BY w.round_id, w.letter`, rounds)
	if err != nil {
		return nil, fmt.Errorf("reading cartons: %w", err)
	}
	out := map[int64][]Carton{}
	for _, row := range rows {
		out[row.Round] = append(out[row.Round], row.Carton)
	}
	return out, nil
}

// ordersOn are the orders that stops are for, by their ids.
func ordersOn(stops []RoundStop) []RoundOrder {
	by := map[int64]string{}
	for _, s := range stops {
		by[s.OrderID] = s.Order
	}
	out := []RoundOrder{}
	for _, id := range slices.Sorted(maps.Keys(by)) {
		out = append(out, RoundOrder{ID: id, Number: by[id]})
	}
	return out
}

func listPickers(ctx context.Context, q sqlx.QueryerContext) ([]Picker, error) {
	out := []Picker{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT p.id, p.name, p.roles,
		       (SELECT count(*) FROM rounds WHERE picker_id = p.id AND state = 'walking') AS rounds FROM people p
		       WHERE roles && '{picker,lead}' AND ended_at IS NULL ORDER BY p.name`)
	if err != nil {
		return nil, fmt.Errorf("listing who picks: %w", err)
	}
	return out, nil
}
