package dispatch

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
)

func listReady(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Ready, error) {
	out := []Ready{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT o.id AS order_id, o.number AS order_number, o.recipient AS customer, o.carrier,
		       to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on, o.wanted_on < current_date AS late,
		       count(*) AS cartons, sum(w.weight_kg) AS weight_kg, min(w.changed_at) AS since,
		       (SELECT count(*) FROM carton_work e WHERE e.order_id = o.id
		       AND e.state IN ('open', 'at_bench')) AS elsewhere
		  FROM carton_work w JOIN outbound o ON o.id = w.order_id
		 WHERE w.state = 'packed' AND w.site_id = $1 GROUP BY o.id, o.number, o.recipient, o.carrier, o.wanted_on
		 ORDER BY o.carrier, o.wanted_on, o.id`, site)
	if err != nil {
		return nil, fmt.Errorf("listing what is ready: %w", err)
	}
	return out, nil
}
