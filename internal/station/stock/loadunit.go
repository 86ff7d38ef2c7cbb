package stock

import (
	"context"
	"fmt"

	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
)

// LoadUnit is a carton or a pallet by its SSCC, wherever it is.
type LoadUnit struct {
	ID   int64  `db:"id" json:"id"`
	SSCC string `db:"sscc" json:"sscc"`
	Kind string `db:"kind" json:"kind"`
	// Order is what it is made up for, and State how far it is, for one that leaves.
	Order  string `db:"order_number" json:"order"`
	State  string `db:"state" json:"state"`
	Pallet string `db:"pallet" json:"pallet" doc:"The SSCC of the pallet that it stands on"`
}

func readLoadUnit(ctx context.Context, q sqlx.QueryerContext, id int64) (LoadUnit, error) {
	var out LoadUnit
	err := sqlx.GetContext(ctx, q, &out, `
		SELECT c.id, c.sscc, c.kind, coalesce(o.number, '') AS order_number, coalesce(w.state, '') AS state,
		       coalesce(p.sscc, '') AS pallet
		  FROM cartons c LEFT JOIN carton_work w ON w.carton_id = c.id LEFT JOIN outbound_orders o ON o.id = w.order_id
		  LEFT JOIN cartons p ON p.id = w.pallet_id WHERE c.id = $1`, id)
	return out, documents.Found(err, "carton or pallet", fmt.Sprint(id))
}
