package putaway

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/cartons"
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

// Restock is goods in a carton that its order does not want any more.
type Restock struct {
	ID          int64           `db:"id" json:"id"`
	SiteID      int32           `db:"site_id" json:"-"`
	Order       string          `db:"order_number" json:"order"`
	CartonID    int64           `db:"carton_id" json:"carton_id"`
	SSCC        string          `db:"sscc" json:"sscc"`
	Location    string          `db:"location" json:"location" doc:"Where the carton stands"`
	LocationID  int32           `db:"location_id" json:"-"`
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

const restockColumns = `
	SELECT x.id, x.site_id, o.number AS order_number, x.carton_id, c.sscc, coalesce(p.code, '') AS location,
	       coalesce(p.id, 0) AS location_id, i.id AS item_id, i.sku, i.description, i.base_unit AS unit,
	       x.lot_id, l.code AS lot, x.serial_id, coalesce(s.code, '') AS serial, x.quantity,
	       coalesce(f.code, '') AS from_bin, a.name AS asked_by, x.asked_at, x.done_at IS NOT NULL AS done
	  FROM restocks x JOIN outbound_lines n ON n.id = x.line_id JOIN outbound_orders o ON o.id = n.order_id
	  JOIN cartons c ON c.id = x.carton_id JOIN items i ON i.id = x.item_id
	  LEFT JOIN lots l ON l.id = x.lot_id LEFT JOIN serials s ON s.id = x.serial_id
	  LEFT JOIN locations f ON f.id = x.location_id JOIN people a ON a.id = x.asked_by
	  LEFT JOIN LATERAL (SELECT location_id FROM balances WHERE carton_id = x.carton_id LIMIT 1) AS b ON true
	  LEFT JOIN locations p ON p.id = b.location_id `

// listRestocks lists what waits to be returned to stock at a site.
func listRestocks(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Restock, error) {
	out := []Restock{}
	if err := sqlx.SelectContext(ctx, q, &out, restockColumns+`
		WHERE x.site_id = $1 AND x.done_at IS NULL ORDER BY x.id`, site); err != nil {
		return nil, fmt.Errorf("listing what is to be returned to stock: %w", err)
	}
	return out, nil
}

// PostRestock moves goods from a carton back into a bin.
func PostRestock(ctx context.Context, tx *command.Tx, id int64, code string) (Restock, error) {
	var carton int64
	if err := tx.GetContext(ctx, &carton, `SELECT carton_id FROM restocks WHERE id = $1`, id); err != nil {
		return Restock{}, documents.Found(err, "task", fmt.Sprint(id))
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.Carton, carton), documents.Own(documents.Restock,
		id)); err != nil {
		return Restock{}, err
	}
	var x Restock
	if err := tx.GetContext(ctx, &x, restockColumns+`WHERE x.id = $1`, id); err != nil {
		return x, documents.Found(err, "task", fmt.Sprint(id))
	}
	if x.Done {
		return x, refusal.New(refusal.RestockDone, "", "%s of %s were returned to stock already.", x.Quantity,
			x.SKU).Of(refusal.Conflict)
	}
	bin, err := catalog.LocationByCode(ctx, tx, "bin", code, x.SiteID)
	if err != nil {
		return x, err
	}
	if bin.Kind != "bin" {
		return x, refusal.New(refusal.NotABin, "bin", "%s is a %s, not a storage bin. Choose a bin.", bin.Code,
			bin.Kind)
	}
	item, err := catalog.ItemByID(ctx, tx, x.ItemID)
	if err != nil {
		return x, err
	}
	from, err := catalog.LocationByID(ctx, tx, x.LocationID)
	if err != nil {
		return x, err
	}
	by, err := catalog.HeldBins(ctx, tx, from, []int32{bin.ID})
	if err != nil {
		return x, err
	}
	if err := slotting.Check(goodsOf(item, x.Lot, x.Quantity, ""),
		[]slotting.Line{{Field: "bin", Bin: by[bin.ID], Quantity: x.Quantity}}); err != nil {
		return x, err
	}
	move := ledger.Move{Item: x.ItemID, Lot: x.LotID, Quantity: x.Quantity, From: x.LocationID, FromBox: &x.CartonID,
		To: bin.ID}
	// A unit that was taken down on the way out goes back without a name of its own.
	if item.Tracking == receiving.Serial || item.Tracking == receiving.SerialOut {
		move.Serial, move.SerialCode = x.SerialID, x.Serial
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Restock, Document: x.Order, Note: "carton " + x.SSCC},
		[]ledger.Move{move}); err != nil {
		return x, err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE restocks SET done_by = $2, done_at = $3 WHERE id = $1`, id, tx.Person.ID, tx.Now); err != nil {
		return x, fmt.Errorf("noting what was returned to stock: %w", err)
	}
	if err := cartons.BlankIfEmpty(ctx, tx, x.CartonID); err != nil {
		return x, err
	}
	x.Done = true
	tx.NotifySite(x.SiteID, ledger.Topics("putaway", "pack", "orders", "row")...)
	return x, nil
}
