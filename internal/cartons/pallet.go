package cartons

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/gs1"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Pallet is a carton or a pallet that goods came on, and that they lie on in stock.
type Pallet struct {
	ID   int64  `db:"id" json:"id"`
	SSCC string `db:"sscc" json:"sscc"`
	Kind string `db:"kind" json:"kind" enum:"carton,pallet"`
	// New is true until Ensure wrote it.
	New bool `db:"-" json:"-"`
	// LocationID and Location are where it stands; 0 while it is empty.
	LocationID int32      `db:"location_id" json:"location_id"`
	Location   string     `db:"location" json:"location"`
	SiteID     int32      `db:"site_id" json:"site_id"`
	Holds      []OnPallet `db:"-" json:"holds"`
}

// OnPallet is goods of one kind on a pallet.
type OnPallet struct {
	CartonID    int64             `db:"carton_id" json:"-"`
	ItemID      int32             `db:"item_id" json:"item_id"`
	SKU         string            `db:"sku" json:"sku"`
	Description string            `db:"description" json:"description"`
	Unit        string            `db:"unit" json:"unit"`
	LotID       *int64            `db:"lot_id" json:"lot_id"`
	Lot         *string           `db:"lot" json:"lot"`
	Condition   posting.Condition `db:"condition" json:"condition"`
	Quantity    decimal.Decimal   `db:"quantity" json:"quantity"`
	Reserved    decimal.Decimal   `db:"reserved" json:"reserved"`
}

// Words name the pallet by the end of its number.
func (p Pallet) Words() string {
	if p.SSCC == "" {
		return "a new " + p.Kind
	}
	return p.Kind + " …" + p.SSCC[14:]
}

// Arriving is what goods stand on that come in at a dock: a number from its label, or a
// new one. One that is somewhere else already is refused.
func Arriving(ctx context.Context, q sqlx.QueryerContext, dock int32, scan, kind string) (*Pallet, error) {
	scan = strings.TrimSpace(scan)
	if scan == "" {
		return &Pallet{Kind: kind, New: true}, nil
	}
	digits := strings.NewReplacer("(", "", ")", "", " ", "").Replace(scan)
	if len(digits) == 20 {
		digits = strings.TrimPrefix(digits, "00")
	}
	sscc, err := gs1.SSCC("carton.sscc", digits)
	if err != nil {
		return nil, err
	}
	var used string
	err = sqlx.GetContext(ctx, q, &used, `
		SELECT coalesce((SELECT w.state FROM carton_work w JOIN cartons c ON c.id = w.carton_id WHERE c.sscc = $1),
		'')`, sscc)
	if err != nil {
		return nil, fmt.Errorf("reading a carton: %w", err)
	}
	if used != "" {
		return nil, refusal.New(refusal.CartonUsed, "carton.sscc",
			"%s is a carton of our own for orders (%s). Scan the label that the supplier put on.", sscc, used).Of(refusal.Conflict)
	}
	found, err := pallets(ctx, q, `AND c.sscc = $1`, sscc)
	if err != nil {
		return nil, err
	}
	if len(found) == 0 {
		return &Pallet{SSCC: sscc, Kind: kind}, nil
	}
	p := found[0]
	if p.LocationID != 0 && p.LocationID != dock {
		return nil, refusal.New(refusal.CartonElsewhere, "carton.sscc",
			"%s stands in %s already. Scan the label again; a number is used once.", p.Words(), p.Location).Of(refusal.Conflict)
	}
	return &p, nil
}

// Ensure writes the pallet where it is not known, with a new number under the company
// prefix when it has none.
func (p *Pallet) Ensure(ctx context.Context, tx *command.Tx, prefix string) (err error) {
	switch {
	case p.ID != 0:
		return nil
	case p.SSCC == "":
		p.SSCC, p.ID, err = number(ctx, tx, prefix, p.Kind)
		return err
	}
	if err := tx.GetContext(ctx, &p.ID, `
		INSERT INTO cartons (sscc, kind) VALUES ($1, $2) RETURNING id`, p.SSCC, p.Kind); err != nil {
		return fmt.Errorf("writing a pallet: %w", err)
	}
	return nil
}

// PalletsAt lists the cartons and pallets with goods on them at locations of a kind.
func PalletsAt(ctx context.Context, q sqlx.QueryerContext, site int32, kind string) ([]Pallet, error) {
	return pallets(ctx, q, `AND p.site_id = $1 AND p.kind = $2 ORDER BY p.code, c.id`, site, kind)
}

// PalletByID reads a carton or a pallet in stock.
func PalletByID(ctx context.Context, q sqlx.QueryerContext, id int64) (Pallet, error) {
	found, err := pallets(ctx, q, `AND c.id = $1`, id)
	if err != nil {
		return Pallet{}, err
	}
	if len(found) == 0 || found[0].LocationID == 0 {
		return Pallet{}, refusal.New(refusal.CartonEmpty, "carton_id",
			"Nothing stands on that carton or pallet in stock. Cartons of orders go from the round to the bench "+
				"and out.").Of(refusal.Missing)
	}
	return found[0], nil
}

// pallets reads cartons and pallets in stock. A carton that a round fills for an order
// is none of them: it goes its own way.
func pallets(ctx context.Context, q sqlx.QueryerContext, and string, args ...any) ([]Pallet, error) {
	out := []Pallet{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT c.id, c.sscc, c.kind, coalesce(p.id, 0) AS location_id, coalesce(p.code, '') AS location,
		       coalesce(p.site_id, 0) AS site_id
		  FROM cartons c
		  LEFT JOIN LATERAL (SELECT location_id FROM balances WHERE carton_id = c.id LIMIT 1) AS b ON true
		  LEFT JOIN locations p ON p.id = b.location_id
		 WHERE NOT EXISTS (SELECT FROM carton_work WHERE carton_id = c.id) `+and, args...)
	if err != nil {
		return nil, fmt.Errorf("reading pallets: %w", err)
	}
	ids, at := make([]int64, len(out)), map[int64]int{}
	for i := range out {
		ids[i], at[out[i].ID], out[i].Holds = out[i].ID, i, []OnPallet{}
	}
	var holds []OnPallet
	err = sqlx.SelectContext(ctx, q, &holds, `
		SELECT b.carton_id, i.id AS item_id, i.sku, i.description, i.base_unit AS unit, b.lot_id, l.code AS lot,
		       b.condition, sum(b.quantity) AS quantity, sum(b.reserved) AS reserved
		  FROM balances b JOIN items i ON i.id = b.item_id LEFT JOIN lots l ON l.id = b.lot_id
		 WHERE b.carton_id = ANY($1) GROUP BY b.carton_id, i.id, b.lot_id, l.code, b.condition ORDER BY i.sku, l.code`,
		ids)
	if err != nil {
		return nil, fmt.Errorf("reading what stands on pallets: %w", err)
	}
	for _, h := range holds {
		p := &out[at[h.CartonID]]
		p.Holds = append(p.Holds, h)
	}
	return out, nil
}
