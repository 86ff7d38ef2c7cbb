package dispatch

import (
	"context"
	"fmt"

	"lanternrow/internal/cartons"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
)

func listReady(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Ready, error) {
	out := []Ready{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT o.id AS order_id, o.number AS order_number, p.name AS customer, o.carrier, to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on, o.wanted_on < current_date AS late,
		       count(*) AS cartons, sum(w.weight_kg) AS weight_kg, min(w.changed_at) AS since,
		       (SELECT count(*) FROM carton_work e WHERE e.order_id = o.id AND e.state IN ('open', 'at bench')) AS elsewhere
		  FROM carton_work w JOIN sales_orders o ON o.id = w.order_id JOIN parties p ON p.id = o.customer_id
		 WHERE w.state = 'packed' AND w.site_id = $1 GROUP BY o.id, p.name ORDER BY o.carrier, o.wanted_on, o.id`, site)
	if err != nil {
		return nil, fmt.Errorf("listing what is ready: %w", err)
	}
	return out, nil
}

const deliveryColumns = `
	SELECT d.id, d.number, d.order_id, o.number AS order_number, p.name AS customer, d.carrier, d.sent_at, pe.name AS sent_by, d.site_id, d.tracking, d.rate, d.carrier_said,
	       coalesce((SELECT number FROM loads WHERE id = d.load_id), '') AS load, coalesce((SELECT string_agg(number, ', ' ORDER BY id) FROM sales_bills WHERE delivery_id = d.id), '') AS billed
	  FROM deliveries d JOIN sales_orders o ON o.id = d.order_id JOIN parties p ON p.id = o.customer_id JOIN people pe ON pe.id = d.sent_by `

func listDeliveries(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Delivery, error) {
	out := []Delivery{}
	if err := sqlx.SelectContext(ctx, q, &out, deliveryColumns+`WHERE d.site_id = $1 ORDER BY d.id DESC LIMIT 30`, site); err != nil {
		return nil, fmt.Errorf("listing deliveries: %w", err)
	}
	for i := range out {
		out[i].Cartons = []cartons.Carton{}
	}
	return out, nil
}

func readDelivery(ctx context.Context, q sqlx.QueryerContext, id int64) (Delivery, error) {
	var d Delivery
	err := sqlx.GetContext(ctx, q, &d, deliveryColumns+`WHERE d.id = $1`, id)
	if err != nil {
		return d, documents.Found(err, "delivery", fmt.Sprint(id))
	}
	d.Cartons, err = cartons.OfDelivery(ctx, q, id)
	return d, err
}
