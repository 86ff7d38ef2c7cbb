package putaway

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/slotting"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// PutBack is goods in a carton that its order does not want any more.
type PutBack struct {
	ID          int64           `db:"id" json:"id"`
	SiteID      int32           `db:"site_id" json:"-"`
	Order       string          `db:"order_number" json:"order"`
	CartonID    int64           `db:"carton_id" json:"carton_id"`
	SSCC        string          `db:"sscc" json:"sscc"`
	Place       string          `db:"place" json:"place" doc:"Where the carton stands"`
	PlaceID     int32           `db:"place_id" json:"-"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	LotID       *int64          `db:"lot_id" json:"lot_id"`
	Lot         *string         `db:"lot" json:"lot"`
	SerialID    *int64          `db:"serial_id" json:"-"`
	Serial      string          `db:"serial" json:"serial"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	From        string          `db:"from_bin" json:"from" doc:"Where it was taken from"`
	AskedBy     string          `db:"asked_by" json:"asked_by"`
	AskedAt     time.Time       `db:"asked_at" json:"asked_at"`
	Done        bool            `db:"done" json:"done"`
}

const putBackColumns = `
	SELECT x.id, x.site_id, o.number AS order_number, x.carton_id, c.sscc, coalesce(p.code, '') AS place, coalesce(p.id, 0) AS place_id, i.id AS item_id, i.sku, i.description, i.base_unit AS unit,
	       x.lot_id, l.code AS lot, x.serial_id, coalesce(s.code, '') AS serial, x.quantity, coalesce(f.code, '') AS from_bin, a.name AS asked_by, x.asked_at, x.done_at IS NOT NULL AS done
	  FROM put_backs x JOIN outbound_lines n ON n.id = x.line_id JOIN outbound_orders o ON o.id = n.order_id JOIN cartons c ON c.id = x.carton_id JOIN items i ON i.id = x.item_id
	  LEFT JOIN lots l ON l.id = x.lot_id LEFT JOIN serials s ON s.id = x.serial_id LEFT JOIN places f ON f.id = x.place_id JOIN people a ON a.id = x.asked_by
	  LEFT JOIN LATERAL (SELECT place_id FROM balances WHERE carton_id = x.carton_id LIMIT 1) AS b ON true LEFT JOIN places p ON p.id = b.place_id `

// listPutBacks lists what waits to be put back at a site.
func listPutBacks(ctx context.Context, q sqlx.QueryerContext, site int32) ([]PutBack, error) {
	out := []PutBack{}
	if err := sqlx.SelectContext(ctx, q, &out, putBackColumns+`WHERE x.site_id = $1 AND x.done_at IS NULL ORDER BY x.id LIMIT 500`, site); err != nil {
		return nil, fmt.Errorf("listing what is to be put back: %w", err)
	}
	return out, nil
}

// PostPutBack moves goods from a carton back into a bin.
func PostPutBack(ctx context.Context, tx *command.Tx, id int64, code string) (PutBack, error) {
	var carton int64
	if err := tx.GetContext(ctx, &carton, `SELECT carton_id FROM put_backs WHERE id = $1`, id); err != nil {
		return PutBack{}, documents.Found(err, "task", fmt.Sprint(id))
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.Carton, carton), documents.Own(documents.PutBack, id)); err != nil {
		return PutBack{}, err
	}
	var x PutBack
	if err := tx.GetContext(ctx, &x, putBackColumns+`WHERE x.id = $1`, id); err != nil {
		return x, documents.Found(err, "task", fmt.Sprint(id))
	}
	if x.Done {
		return x, refusal.New("put_back_done", "", "%s of %s were put back already.", x.Quantity, x.SKU).Of(refusal.Conflict)
	}
	bin, err := catalog.PlaceByCode(ctx, tx, "bin", code, x.SiteID)
	if err != nil {
		return x, err
	}
	if bin.Kind != "bin" {
		return x, refusal.New("not_a_bin", "bin", "%s is a %s, not a storage bin. Choose a bin.", bin.Code, bin.Kind)
	}
	item, err := catalog.ItemByID(ctx, tx, x.ItemID)
	if err != nil {
		return x, err
	}
	from, err := catalog.PlaceByID(ctx, tx, x.PlaceID)
	if err != nil {
		return x, err
	}
	by, err := heldBins(ctx, tx, from, []int32{bin.ID})
	if err != nil {
		return x, err
	}
	if err := slotting.Check(goodsOf(item, x.Lot, x.Quantity, ""), []slotting.Line{{Field: "bin", Bin: by[bin.ID], Quantity: x.Quantity}}); err != nil {
		return x, err
	}
	move := ledger.Move{Item: x.ItemID, Lot: x.LotID, Quantity: x.Quantity, From: x.PlaceID, FromBox: &x.CartonID, To: bin.ID}
	// A unit that was taken down on the way out goes back without a name of its own.
	if item.Tracking == receiving.Serial || item.Tracking == receiving.SerialOut {
		move.Serial, move.SerialCode = x.SerialID, x.Serial
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.PutBack, Document: x.Order, Note: "carton " + x.SSCC}, []ledger.Move{move}); err != nil {
		return x, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE put_backs SET done_by = $2, done_at = $3 WHERE id = $1`, id, tx.Person.ID, tx.Now); err != nil {
		return x, fmt.Errorf("noting what was put back: %w", err)
	}
	// A carton that is empty now, at the bench, can be used anew.
	if _, err := tx.ExecContext(ctx, `UPDATE carton_work SET state = 'blank', order_id = NULL, round_id = NULL, letter = '', changed_at = $2
		WHERE carton_id = $1 AND state = 'at bench' AND NOT EXISTS (SELECT FROM balances WHERE carton_id = $1)`, x.CartonID, tx.Now); err != nil {
		return x, fmt.Errorf("emptying a carton: %w", err)
	}
	x.Done = true
	tx.Touch(ledger.Topics("putaway", "pack", "orders", "row")...)
	return x, nil
}
