package recall

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

var topics = []string{"audit", "recall", "stock", "floor", "pick", "orders", "row"}

// A Recall is goods that are called back, or a drill of that.
type Recall struct {
	ID      int64      `db:"id" json:"id"`
	Number  string     `db:"number" json:"number"`
	Source  string     `db:"source" json:"source" doc:"What it was begun from, in words"`
	Reason  string     `db:"reason" json:"reason"`
	Drill   bool       `db:"drill" json:"drill"`
	BegunBy string     `db:"begun_by" json:"begun_by"`
	BegunAt time.Time  `db:"begun_at" json:"begun_at"`
	EndedBy string     `db:"ended_by" json:"ended_by"`
	EndedAt *time.Time `db:"ended_at" json:"ended_at"`
	Minutes *float64   `db:"minutes" json:"minutes" doc:"How long it took from begin to end"`
	// Goods, Held and Cleared count its lots and units.
	Goods   int `db:"goods" json:"goods"`
	Held    int `db:"held" json:"held"`
	Cleared int `db:"cleared" json:"cleared"`
	// Report is what its page said when it ended.
	Report json.RawMessage `db:"report" json:"-"`
}

// A WholeRecall is a recall with each lot and unit of it.
type WholeRecall struct {
	Recall
	Parts []Part `json:"parts" nullable:"false"`
}

// A Part is a lot or a unit of a recall.
type Part struct {
	LotID      int64      `db:"lot_id" json:"lot_id" doc:"0 for a unit"`
	SerialID   int64      `db:"serial_id" json:"serial_id" doc:"0 for a lot"`
	Label      string     `db:"label" json:"label"`
	Held       bool       `db:"held" json:"held"`
	ClearedBy  string     `db:"cleared_by" json:"cleared_by"`
	ClearedAt  *time.Time `db:"cleared_at" json:"cleared_at"`
	ClearedWhy string     `db:"cleared_why" json:"cleared_why"`
}

// readWhole reads a recall with each lot and unit of it.
func readWhole(ctx context.Context, q sqlx.QueryerContext, id int64) (WholeRecall, error) {
	out := WholeRecall{Parts: []Part{}}
	var err error
	if out.Recall, err = readRecall(ctx, q, id); err != nil {
		return out, err
	}
	if err := sqlx.SelectContext(ctx, q, &out.Parts, `
		SELECT coalesce(g.lot_id, 0) AS lot_id, coalesce(g.serial_id, 0) AS serial_id, i.sku || ' ' || coalesce('lot ' || l.code, u.code) AS label,
		       g.held_at IS NOT NULL AND g.cleared_at IS NULL AS held, coalesce(p.name, '') AS cleared_by, g.cleared_at, g.cleared_why
		  FROM recall_goods g LEFT JOIN lots l ON l.id = g.lot_id LEFT JOIN serials u ON u.id = g.serial_id
		  JOIN items i ON i.id = coalesce(l.item_id, u.item_id) LEFT JOIN people p ON p.id = g.cleared_by
		 WHERE g.recall_id = $1 ORDER BY label`, id); err != nil {
		return out, fmt.Errorf("reading the goods of a recall: %w", err)
	}
	return out, nil
}

const recallColumns = `
	SELECT r.id, r.number, r.source, r.reason, r.drill, b.name AS begun_by, r.begun_at, coalesce(e.name, '') AS ended_by, r.ended_at,
	       round(extract(epoch FROM r.ended_at - r.begun_at) / 60, 1)::float8 AS minutes,
	       g.goods, g.held, g.cleared, coalesce(r.report, 'null') AS report
	  FROM recalls r JOIN people b ON b.id = r.begun_by LEFT JOIN people e ON e.id = r.ended_by
	  JOIN LATERAL (SELECT count(*)::int AS goods, (count(*) FILTER (WHERE held_at IS NOT NULL AND cleared_at IS NULL))::int AS held,
	                  (count(*) FILTER (WHERE cleared_at IS NOT NULL))::int AS cleared FROM recall_goods WHERE recall_id = r.id) AS g ON true `

func listRecalls(ctx context.Context, q sqlx.QueryerContext) ([]Recall, error) {
	out := []Recall{}
	if err := sqlx.SelectContext(ctx, q, &out, recallColumns+`ORDER BY r.ended_at IS NOT NULL, r.id DESC LIMIT 200`); err != nil {
		return nil, fmt.Errorf("listing recalls: %w", err)
	}
	return out, nil
}

func readRecall(ctx context.Context, q sqlx.QueryerContext, id int64) (r Recall, err error) {
	err = sqlx.GetContext(ctx, q, &r, recallColumns+`WHERE r.id = $1`, id)
	return r, documents.Found(err, "recall", fmt.Sprint(id))
}

// openOver is the recall that is open over any of these goods; nil for none.
func openOver(ctx context.Context, q sqlx.QueryerContext, s scope) (*Recall, error) {
	var r Recall
	err := sqlx.GetContext(ctx, q, &r, recallColumns+`
		WHERE r.ended_at IS NULL AND EXISTS (SELECT FROM recall_goods o WHERE o.recall_id = r.id
		      AND (o.lot_id = ANY($1) OR o.serial_id = ANY($2))) ORDER BY r.drill, r.id DESC LIMIT 1`, s.lots, s.serials)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("reading the recall of goods: %w", err)
	}
	return &r, nil
}

// Begun is a recall as it is begun.
type Begun struct {
	Source Source `json:"source" enum:"lot,serial,arrival,order"`
	ID     int64  `json:"id"`
	Reason string `json:"reason" maxLength:"200" doc:"Why; whoever is stopped reads it"`
	Drill  bool   `json:"drill,omitempty" doc:"Nothing is held; how long it takes is kept"`
}

// read reads which goods it is over, and refuses what cannot be called back.
func (in Begun) read(ctx context.Context, q sqlx.QueryerContext) (s scope, err error) {
	if s, err = readScope(ctx, q, in.Source, in.ID); err != nil {
		return s, err
	}
	if err := s.needsGoods(); err != nil {
		return s, err
	}
	if people.SaysTooLittle(strings.TrimSpace(in.Reason)) {
		return s, refusal.New(refusal.ReasonMissing, "reason",
			"Write in a few words why these goods are called back; whoever is stopped in the hand reads it.")
	}
	open, err := openOver(ctx, q, s)
	if err == nil && open != nil && !open.Drill && !in.Drill {
		err = refusal.New(refusal.RecallOver, "", "%s of %s calls back some of these goods already. Go on there.", open.Number,
			open.Source).Of(refusal.Conflict)
	}
	return s, err
}

// Begin begins a recall, and holds what is left of its goods at every site at once; a drill holds nothing.
func Begin(ctx context.Context, tx *command.Tx, in Begun) (Recall, error) {
	// It holds what is left at every site, wherever the lead works.
	tx.Nowhere()
	// One begins at a time, so that two never call the same goods back.
	if _, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock(hashtextextended('recalls', 0))`); err != nil {
		return Recall{}, fmt.Errorf("holding the recalls: %w", err)
	}
	s, err := in.read(ctx, tx)
	if err != nil {
		return Recall{}, err
	}
	var id int64
	if err := tx.GetContext(ctx, &id, `
		INSERT INTO recalls (source, reason, drill, begun_by, begun_at) VALUES ($1, $2, $3, $4, $5) RETURNING id`,
		s.From, strings.TrimSpace(in.Reason), in.Drill, tx.Person.ID, tx.Now); err != nil {
		return Recall{}, fmt.Errorf("beginning a recall: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO recall_goods (recall_id, lot_id, serial_id)
		SELECT $1::bigint, id, NULL::bigint FROM unnest($2::bigint[]) AS t(id) UNION ALL SELECT $1, NULL, id FROM unnest($3::bigint[]) AS t(id)`,
		id, s.lots, s.serials); err != nil {
		return Recall{}, fmt.Errorf("noting the goods of a recall: %w", err)
	}
	if !in.Drill {
		if err := hold(ctx, tx, id, s); err != nil {
			return Recall{}, err
		}
	}
	tx.Notify(topics...)
	return readRecall(ctx, tx, id)
}

// hold holds what is left of goods: what is free or reserved is in a condition of its own from then on; what is on
// rounds, packed or loaded goes no step further.
func hold(ctx context.Context, tx *command.Tx, id int64, s scope) error {
	r, err := readRecall(ctx, tx, id)
	if err != nil {
		return err
	}
	if err := unreserve(ctx, tx, s); err != nil {
		return err
	}
	moves, err := standing(ctx, tx, s, posting.Recalled, posting.Good, posting.Waiting)
	if err != nil {
		return err
	}
	// Read again once nobody else can take it: whoever was quicker has it, and is stopped further on.
	if err := ledger.LockStock(ctx, tx, moves); err != nil {
		return err
	}
	if moves, err = standing(ctx, tx, s, posting.Recalled, posting.Good, posting.Waiting); err != nil {
		return err
	}
	if err := post(ctx, tx, r, ledger.Head{Kind: posting.Hold, Note: r.Reason}, moves); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE recall_goods SET held_at = $2 WHERE recall_id = $1`, id, tx.Now); err != nil {
		return fmt.Errorf("holding goods: %w", err)
	}
	return nil
}

// unreserve gives up what orders have reserved of the goods, where no round has it yet.
func unreserve(ctx context.Context, tx *command.Tx, s scope) error {
	found, err := reservation.OfGoods(ctx, tx, s.lots, s.serials)
	if err != nil || len(found) == 0 {
		return err
	}
	orders := make([]int64, len(found))
	for i, r := range found {
		orders[i] = r.OrderID
	}
	if err := reservation.HoldFloor(ctx, tx, orders...); err != nil {
		return err
	}
	if found, err = reservation.OfGoods(ctx, tx, s.lots, s.serials); err != nil {
		return err
	}
	for _, r := range found {
		if err := reservation.Unreserve(ctx, tx, r, r.Quantity); err != nil {
			return err
		}
	}
	return nil
}

// standing are the moves of all that stands loose of the goods in some conditions into another, where it is.
func standing(ctx context.Context, q sqlx.QueryerContext, s scope, to posting.Condition, from ...posting.Condition) ([]ledger.Move, error) {
	var rows []struct {
		Location  int32  `db:"location_id"`
		Item      int32  `db:"item_id"`
		Lot       *int64 `db:"lot_id"`
		Serial    *int64 `db:"serial_id"`
		Code      string
		Carton    *int64 `db:"carton_id"`
		Condition posting.Condition
		Free      decimal.Decimal
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT b.location_id, b.item_id, b.lot_id, b.serial_id, coalesce(u.code, '') AS code, b.carton_id,
		       b.condition, b.quantity - b.reserved AS free
		  FROM balances b JOIN locations p ON p.id = b.location_id LEFT JOIN serials u ON u.id = b.serial_id
		  LEFT JOIN carton_work w ON w.carton_id = b.carton_id AND w.state <> 'shipped' AND w.order_id IS NOT NULL
		 WHERE p.real AND p.kind <> 'transit' AND w.carton_id IS NULL AND b.condition = ANY($3) AND b.quantity > b.reserved
		   AND (b.lot_id = ANY($1) OR b.serial_id = ANY($2))
		 ORDER BY b.location_id, b.item_id, b.lot_id, b.serial_id`, s.lots, s.serials, from)
	if err != nil {
		return nil, fmt.Errorf("reading what is left of goods: %w", err)
	}
	moves := make([]ledger.Move, len(rows))
	for i, r := range rows {
		moves[i] = ledger.Move{Item: r.Item, Lot: r.Lot, Serial: r.Serial, SerialCode: r.Code, Quantity: r.Free, From: r.Location,
			FromBox: r.Carton, FromState: r.Condition, To: r.Location, ToBox: r.Carton, ToState: to}
	}
	return moves, nil
}

func post(ctx context.Context, tx *command.Tx, r Recall, h ledger.Head, moves []ledger.Move) error {
	if len(moves) == 0 {
		return nil
	}
	h.Document = r.Number
	_, err := ledger.Post(ctx, tx, h, moves)
	return err
}

// scrap has moves end where scrapped goods are counted.
func scrap(ctx context.Context, tx *command.Tx, moves []ledger.Move) error {
	if err := catalog.EnsureScrapped(ctx, tx); err != nil {
		return err
	}
	to, err := catalog.Scrapped(ctx, tx)
	for i := range moves {
		moves[i].To, moves[i].ToBox, moves[i].ToState = to, nil, ""
	}
	return err
}

// Becomes is what becomes of goods that were held.
type Becomes string

// They are good again where they are, or go off the books.
const (
	Good  Becomes = "good"
	Scrap Becomes = "scrap"
)

// Cleared says which goods of a recall are let go again, what becomes of them, and why.
type Cleared struct {
	Becomes Becomes `json:"becomes" enum:"good,scrap"`
	Lots    []int64 `json:"lots,omitempty" maxItems:"500" doc:"Only these lots; all that is held without lots and serials"`
	Serials []int64 `json:"serials,omitempty" maxItems:"500"`
	Reason  string  `json:"reason" maxLength:"200"`
}

// Clear lets held goods go again: what was held is good where it is, or goes off the books.
func Clear(ctx context.Context, tx *command.Tx, id int64, in Cleared) (Recall, error) {
	tx.Nowhere()
	r, err := lock(ctx, tx, id)
	if err != nil {
		return r, err
	}
	reason := strings.TrimSpace(in.Reason)
	if people.SaysTooLittle(reason) {
		return r, refusal.New(refusal.ReasonMissing, "reason", "Write in a few words how you know what becomes of them; it stays in the trail.")
	}
	var s scope
	rows, err := tx.QueryxContext(ctx, `
		UPDATE recall_goods SET cleared_by = $2, cleared_at = $3, cleared_why = $4
		 WHERE recall_id = $1 AND held_at IS NOT NULL AND cleared_at IS NULL
		   AND (cardinality($5::bigint[]) + cardinality($6::bigint[]) = 0 OR lot_id = ANY($5) OR serial_id = ANY($6))
		RETURNING coalesce(lot_id, 0), coalesce(serial_id, 0)`, id, tx.Person.ID, tx.Now, reason, append([]int64{}, in.Lots...),
		append([]int64{}, in.Serials...))
	if err != nil {
		return r, fmt.Errorf("clearing goods: %w", err)
	}
	if err := s.scan(rows); err != nil {
		return r, err
	}
	if len(s.lots)+len(s.serials) == 0 {
		return r, refusal.New(refusal.NothingHeld, "", "%s holds none of these goods: they are cleared, or were never held.", r.Number).
			Of(refusal.Conflict)
	}
	moves, err := standing(ctx, tx, s, posting.Good, posting.Recalled)
	if err != nil {
		return r, err
	}
	kind := posting.Hold
	if in.Becomes == Scrap {
		if kind, err = posting.Dispose, scrap(ctx, tx, moves); err != nil {
			return r, err
		}
	}
	if err := post(ctx, tx, r, ledger.Head{Kind: kind, Note: reason}, moves); err != nil {
		return r, err
	}
	tx.Notify(topics...)
	return readRecall(ctx, tx, id)
}

// scan reads which goods rows are about, and closes them.
func (s *scope) scan(rows *sqlx.Rows) error {
	defer rows.Close()
	for rows.Next() {
		var lot, serial int64
		if err := rows.Scan(&lot, &serial); err != nil {
			return fmt.Errorf("reading goods: %w", err)
		}
		if lot != 0 {
			s.lots = append(s.lots, lot)
		} else {
			s.serials = append(s.serials, serial)
		}
	}
	return rows.Err()
}

// lock holds a recall that is open.
func lock(ctx context.Context, tx *command.Tx, id int64) (Recall, error) {
	if _, err := tx.ExecContext(ctx, `SELECT FROM recalls WHERE id = $1 FOR UPDATE`, id); err != nil {
		return Recall{}, fmt.Errorf("holding a recall: %w", err)
	}
	r, err := readRecall(ctx, tx, id)
	if err == nil && r.EndedAt != nil {
		err = refusal.New(refusal.RecallOver, "", "%s ended with %s. Begin another if it is not over.", r.Number, r.EndedBy).
			Of(refusal.Conflict)
	}
	return r, err
}

// End ends a recall and keeps what its page says now. Goods that are still held stay so until they are cleared: it is
// refused before.
func End(ctx context.Context, tx *command.Tx, id int64) (Recall, error) {
	tx.Nowhere()
	r, err := lock(ctx, tx, id)
	if err != nil {
		return r, err
	}
	if r.Held > 0 {
		return r, refusal.New(refusal.RecallOver, "", "%d lots or units are held by %s still. Clear them, or scrap them and clear the rest.",
			r.Held, r.Number).Of(refusal.Conflict)
	}
	t, err := readTrace(ctx, tx, OfRecall, id)
	if err != nil {
		return r, err
	}
	report, err := json.Marshal(t)
	if err != nil {
		return r, fmt.Errorf("keeping a recall's page: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE recalls SET ended_by = $2, ended_at = $3, report = $4 WHERE id = $1`, id, tx.Person.ID, tx.Now, report); err != nil {
		return r, fmt.Errorf("ending a recall: %w", err)
	}
	tx.Notify(topics...)
	return readRecall(ctx, tx, id)
}
