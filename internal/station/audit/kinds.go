package audit

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/counting"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Kind is goods that are told apart from others where they lie.
type Kind struct {
	LotID    *int64 `db:"lot_id" json:"lot_id"`
	Lot      string `db:"lot" json:"lot"`
	CartonID *int64 `db:"carton_id" json:"carton_id"`
	Carton   string `db:"carton" json:"carton" doc:"The number of the carton or pallet that they lie on; empty for loose goods"`
	// Condition is empty where units are known one by one, and each with its condition.
	Condition posting.Condition `db:"condition" json:"condition" enum:",good,waiting,on_hold,damaged,returned,recalled"`
}

func (k Kind) key() string { return key(k.LotID, k.CartonID, k.Condition) }

// key tells kinds of an item apart.
func key(lot, carton *int64, condition posting.Condition) string {
	at := func(p *int64) int64 {
		if p == nil {
			return 0
		}
		return *p
	}
	return fmt.Sprintf("%d/%d/%s", at(lot), at(carton), condition)
}

// resting is what condition goods are in where they lie, unless their papers say something else.
var resting = map[string]posting.Condition{"quarantine": posting.Held, "damaged": posting.Damaged, "returns": posting.Returned}

// usual is the condition of goods that are found where the books have none; empty where each unit has its own.
func (e Entry) usual() posting.Condition {
	if e.Tracking == receiving.Serial {
		return ""
	}
	return e.restsAs()
}

func (e Entry) restsAs() posting.Condition {
	if c, known := resting[e.Place]; known {
		return c
	}
	return posting.Good
}

// conditionOf is the condition of what was counted without one: as goods of that lot and carton are there by the books,
// which say good before anything else; as goods are that lie there otherwise.
func (e Entry) conditionOf(k Counted, books []held) posting.Condition {
	if k.Condition != "" || e.Tracking == receiving.Serial {
		return k.Condition
	}
	found := posting.Condition("")
	for _, h := range books {
		if key(h.LotID, h.CartonID, "") == key(k.LotID, k.CartonID, "") && (found == "" || h.Condition == posting.Good) {
			found = h.Condition
		}
	}
	if found == "" {
		found = e.usual()
	}
	return found
}

// held is what should be there of one kind.
type held struct {
	Kind
	Quantity decimal.Decimal `db:"quantity"`
	// Reserved is what is reserved now.
	Reserved decimal.Decimal `db:"reserved"`
	Serials  *string         `db:"serials"`
	// Orders are those that it is reserved for.
	Orders string `db:"orders"`
}

// holding is what should be there, as it is compared.
func (h held) holding() counting.Holding {
	out := counting.Holding{Key: h.key(), Quantity: h.Quantity}
	if h.Serials != nil {
		out.Serials = strings.Fields(*h.Serials)
	}
	return out
}

// readHeld reads what should have been of an item at a location, kind by kind, once a move there had been made.
func readHeld(ctx context.Context, q sqlx.QueryerContext, location, item int32, asOf int64) ([]held, error) {
	var out []held
	err := sqlx.SelectContext(ctx, q, &out, `
		WITH stood AS (
			SELECT lot_id, carton_id, serial_id, CASE WHEN i.tracking <> 'serial' THEN condition ELSE '' END AS condition,
			       sum(quantity) AS quantity, sum(reserved) AS reserved FROM (
				SELECT lot_id, carton_id, serial_id, condition, quantity, reserved FROM balances
				 WHERE location_id = $1 AND item_id = $2
				UNION ALL
				SELECT lot_id, carton_id, serial_id, condition, -delta, 0 FROM move_ends
				 WHERE location_id = $1 AND item_id = $2 AND move_id > $3) AS t JOIN items i ON i.id = $2
			 GROUP BY 1, 2, 3, 4 HAVING sum(quantity) <> 0)
		SELECT b.lot_id, coalesce(l.code, '') AS lot, b.carton_id, coalesce(c.sscc, '') AS carton, b.condition,
		       sum(b.quantity) AS quantity, sum(b.reserved) AS reserved,
		       string_agg(s.code, ' ' ORDER BY s.code) AS serials,
		       coalesce((SELECT string_agg(DISTINCT o.number, ', ') FROM reservations n
		       JOIN outbound_lines x ON x.id = n.line_id JOIN outbound_orders o ON o.id = x.order_id
		                  WHERE n.location_id = $1 AND n.item_id = $2 AND n.lot_id IS NOT DISTINCT
		                  FROM b.lot_id AND n.carton_id IS NOT DISTINCT FROM b.carton_id), '') AS orders
		  FROM stood b LEFT JOIN lots l ON l.id = b.lot_id LEFT JOIN cartons c ON c.id = b.carton_id
		  LEFT JOIN serials s ON s.id = b.serial_id
		 GROUP BY b.lot_id, l.code, b.carton_id, c.sscc, b.condition
		 ORDER BY l.code, c.sscc NULLS FIRST, b.condition <> 'good', b.condition`,
		location, item, asOf)
	if err != nil {
		return nil, fmt.Errorf("reading what should be there: %w", err)
	}
	return out, nil
}
