package ledger

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
)

// Recalled is a move of goods that are held by a recall. Explain makes a refusal of it.
type Recalled struct {
	Recall string `json:"recall"`
	Reason string `json:"reason"`
	Item   int32  `json:"item"`
	Lot    *int64 `json:"lot"`
	Serial *int64 `json:"serial"`
}

func (r *Recalled) Error() string {
	return fmt.Sprintf("item %d is held by %s", r.Item, r.Recall)
}

// recalled reads what the database says of goods that are held.
func recalled(detail string, err error) error {
	var r Recalled
	if e := json.Unmarshal([]byte(detail), &r); e != nil {
		return errors.Join(e, err)
	}
	return &r
}

// refusal words it.
func (r *Recalled) refusal(ctx context.Context, q sqlx.QueryerContext) error {
	var what string
	err := sqlx.GetContext(ctx, q, &what, `
		SELECT concat(i.sku, ' lot ' || l.code, ' serial ' || s.code) FROM items i LEFT JOIN lots l ON l.id = $2
		  LEFT JOIN serials s ON s.id = $3 WHERE i.id = $1`, r.Item, r.Lot, r.Serial)
	if err != nil {
		return fmt.Errorf("wording held goods: %w", err)
	}
	return refusal.New(refusal.GoodsRecalled, "", "%s is held by %s: %s. Leave it where it is, and tell the lead.", what, r.Recall,
		r.Reason).Of(refusal.Conflict).With("recall", r.Recall)
}

// Holds are the lots and units that are held, by the codes that people know them by.
type Holds map[held]bool

type held struct {
	Item        int32 `db:"item_id"`
	Lot, Serial string
}

// Takes tells whether the goods of a move are held.
func (h Holds) Takes(m Move) bool {
	return m.LotCode != "" && h[held{Item: m.Item, Lot: m.LotCode}] || m.SerialCode != "" && h[held{Item: m.Item, Serial: m.SerialCode}]
}

// heldGoods are the goods that recalls hold, for the clauses that follow.
const heldGoods = `
	  FROM recall_goods g JOIN recalls r ON r.id = g.recall_id LEFT JOIN lots l ON l.id = g.lot_id
	  LEFT JOIN serials s ON s.id = g.serial_id
	 WHERE g.held_at IS NOT NULL AND g.cleared_at IS NULL `

// ReadHolds reads what of some items is held.
func ReadHolds(ctx context.Context, q sqlx.QueryerContext, items []int32) (Holds, error) {
	var rows []held
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT coalesce(l.item_id, s.item_id) AS item_id, coalesce(l.code, '') AS lot, coalesce(s.code, '') AS serial`+heldGoods+`
		   AND coalesce(l.item_id, s.item_id) = ANY($1)`, items)
	if err != nil {
		return nil, fmt.Errorf("reading what is held: %w", err)
	}
	out := Holds{}
	for _, r := range rows {
		out[r] = true
	}
	return out, nil
}

// checkHolds refuses moves of held goods that would be good after them: a Recalled.
func checkHolds(ctx context.Context, q sqlx.QueryerContext, moves []Move) error {
	lots, units := []int64{}, []int64{}
	for _, m := range moves {
		if m.ToState != "" && m.ToState != posting.Good {
			continue
		}
		if m.Lot != nil {
			lots = append(lots, *m.Lot)
		}
		if m.Serial != nil {
			units = append(units, *m.Serial)
		}
	}
	if len(lots)+len(units) == 0 {
		return nil
	}
	var r Recalled
	err := sqlx.GetContext(ctx, q, &r, `
		SELECT r.number AS recall, r.reason, coalesce(l.item_id, s.item_id) AS item, g.lot_id AS lot, g.serial_id AS serial`+heldGoods+`
		   AND (g.lot_id = ANY($1) OR g.serial_id = ANY($2)) LIMIT 1`, lots, units)
	if errors.Is(err, sql.ErrNoRows) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("looking for held goods: %w", err)
	}
	return &r
}
