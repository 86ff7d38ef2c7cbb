package inbound

import (
	"context"
	"database/sql"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"
)

// newestReceipts is among how many of the latest receipts at a location the origin of what
// stands there is looked for.
const newestReceipts = 200

// OriginOf names the arrival that goods at a location came with, first in, first out: of
// those that brought what still stands there, the earliest. It is empty where no arrival
// brought them.
func OriginOf(ctx context.Context, q sqlx.QueryerContext, location, item int32, lot *int64) (number string, err error) {
	err = sqlx.GetContext(ctx, q, &number, `
		SELECT number
		  FROM (SELECT a.number, m.id, sum(m.quantity) OVER (ORDER BY m.id DESC) - m.quantity AS newer
		          FROM (SELECT id, quantity FROM moves
		                 WHERE to_location = $1 AND item_id = $2 AND coalesce(lot_id, 0) = coalesce($3, 0)
		                   AND EXISTS (SELECT FROM receipts r WHERE r.move_id = moves.id AND r.undone_at IS NULL)
		                 ORDER BY id DESC LIMIT $4) AS m
		          JOIN receipts r ON r.move_id = m.id JOIN arrivals a ON a.id = r.arrival_id) AS came
		 WHERE newer < (SELECT coalesce(sum(quantity), 0) FROM balances
		                 WHERE location_id = $1 AND item_id = $2 AND coalesce(lot_id, 0) = coalesce($3, 0))
		 ORDER BY id LIMIT 1`, location, item, lot, newestReceipts)
	if errors.Is(err, sql.ErrNoRows) {
		return "", nil
	}
	if err != nil {
		return "", fmt.Errorf("finding where goods came from: %w", err)
	}
	return number, nil
}

// Came names an item that came with an arrival, both as people know them.
type Came struct{ Arrival, SKU string }

// OrdersOf are the numbers of the orders that items came on with these arrivals.
func OrdersOf(ctx context.Context, q sqlx.QueryerContext, arrivals []string) (map[Came][]string, error) {
	var rows []struct {
		Came
		Order string `db:"order_number"`
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT DISTINCT a.number AS arrival, i.sku, o.number AS order_number
		  FROM arrivals a JOIN receipts r ON r.arrival_id = a.id JOIN inbound_lines l ON l.id = r.line_id
		  JOIN inbound_orders o ON o.id = l.order_id JOIN items i ON i.id = l.item_id
		 WHERE a.number = ANY($1) ORDER BY order_number`, arrivals)
	if err != nil {
		return nil, fmt.Errorf("reading the orders of arrivals: %w", err)
	}
	out := map[Came][]string{}
	for _, r := range rows {
		out[r.Came] = append(out[r.Came], r.Order)
	}
	return out, nil
}
