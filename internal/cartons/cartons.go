// Package cartons knows the cartons that rounds fill, the bench packs and dispatch
// sends.
package cartons

import (
	"context"
	"fmt"

	"lanternrow/internal/core/gs1"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Carton is a carton with its contents.
type Carton struct {
	ID       int64            `db:"id" json:"id"`
	SSCC     string           `db:"sscc" json:"sscc"`
	SiteID   int32            `db:"site_id" json:"site_id"`
	State    states.Carton    `db:"state" json:"state" enum:"blank,open,at_bench,packed,loaded,shipped"`
	Letter   string           `db:"letter" json:"letter"`
	OrderID  *int64           `db:"order_id" json:"order_id"`
	Order    string           `db:"order_number" json:"order"`
	Customer string           `db:"customer" json:"customer"`
	Address  string           `db:"address" json:"address"`
	Carrier  string           `db:"carrier" json:"carrier"`
	WantedOn *string          `db:"wanted_on" json:"wanted_on"`
	Late     bool             `db:"late" json:"late"`
	Round    string           `db:"round" json:"round"`
	WeightKg *decimal.Decimal `db:"weight_kg" json:"weight_kg"`
	// Expected is the weight of its contents by the catalog, with the carton itself.
	Expected decimal.Decimal `db:"expected" json:"expected_kg"`
	Size     string          `db:"size_code" json:"size"`
	// Pallet is the pallet that it stands on, Load the vehicle; empty when on none.
	PalletID *int64 `db:"pallet_id" json:"pallet_id"`
	Pallet   string `db:"pallet" json:"pallet"`
	LoadID   *int64 `db:"load_id" json:"load_id"`
	Load     string `db:"load" json:"load"`
	// CheckedBy is who looked through it at the bench; VarianceKg is by how much its weight was
	// off, until it is looked through again.
	CheckedBy  string           `db:"checked_by" json:"checked_by"`
	VarianceKg *decimal.Decimal `db:"variance_kg" json:"variance_kg"`
	// Restocks is how many kinds of goods in it are to be returned to stock first.
	Restocks int       `db:"restocks" json:"restocks"`
	Contents []Content `db:"-" json:"contents"`
}

// Content is one item in a carton.
type Content struct {
	CartonID    int64           `db:"carton_id" json:"-"`
	LineID      int64           `db:"line_id" json:"line_id"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	LotID       *int64          `db:"lot_id" json:"lot_id"`
	Lot         *string         `db:"lot" json:"lot"`
	Serial      *string         `db:"serial" json:"-"`
	Serials     []string        `db:"-" json:"serials"`
	ExpiresOn   *string         `db:"expires_on" json:"expires_on"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	Checked     decimal.Decimal `db:"checked" json:"checked" doc:"How many of it were scanned at the bench"`
}

// Whole tells whether all that should be in it was scanned.
func (c Carton) Whole() bool {
	for _, x := range c.Contents {
		if x.Checked.LessThan(x.Quantity) {
			return false
		}
	}
	return true
}

// NothingToRestock refuses a carton that holds what its order does not want any more.
func (c Carton) NothingToRestock() error {
	if c.Restocks == 0 {
		return nil
	}
	return refusal.New(refusal.RestockFirst, "",
		"%d kinds of goods in carton …%s are not wanted any more. Return them to stock first.", c.Restocks, c.SSCC[14:]).Of(refusal.Conflict)
}

const columns = `
	SELECT c.id, c.sscc, w.site_id, w.state, w.letter, w.order_id, coalesce(o.number, '') AS order_number,
	       coalesce(o.recipient, '') AS customer,
	       coalesce(o.address, '') AS address, coalesce(o.carrier, '') AS carrier,
	       to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on,
	       coalesce(o.wanted_on < current_date AND w.state <> 'shipped', false) AS late,
	       coalesce(r.number, '') AS round, w.weight_kg,
	       coalesce((SELECT sum(cc.quantity * i.weight_kg) FROM carton_contents cc JOIN items i ON i.id = cc.item_id
	       WHERE cc.carton_id = c.id), 0)
	         + coalesce((SELECT tare_kg FROM carton_sizes z WHERE z.code = w.size_code), 0) AS expected,
	       w.size_code, w.pallet_id, coalesce((SELECT sscc FROM cartons WHERE id = w.pallet_id), '') AS pallet,
	       w.load_id, coalesce((SELECT number FROM loads WHERE id = w.load_id), '') AS load,
	       coalesce((SELECT name FROM people WHERE id = w.checked_by), '') AS checked_by, w.variance_kg,
	       (SELECT count(*) FROM restocks b WHERE b.carton_id = c.id AND b.done_at IS NULL) AS restocks
	  FROM cartons c JOIN carton_work w ON w.carton_id = c.id LEFT JOIN outbound o ON o.id = w.order_id
	  LEFT JOIN rounds r ON r.id = w.round_id `

// InState lists a site's cartons in a state, by the date their order is wanted.
func InState(ctx context.Context, q sqlx.QueryerContext, site int32, state string) ([]Carton, error) {
	return list(ctx, q, `
		WHERE w.site_id = $1 AND w.state = $2 ORDER BY o.wanted_on NULLS LAST, o.id, c.id`, site, state)
}

// ByIDs lists these cartons.
func ByIDs(ctx context.Context, q sqlx.QueryerContext, ids []int64) ([]Carton, error) {
	return list(ctx, q, `WHERE c.id = ANY($1) ORDER BY c.id`, ids)
}

// OfOrder lists an order's cartons in a state.
func OfOrder(ctx context.Context, q sqlx.QueryerContext, order int64, state string) ([]Carton, error) {
	return list(ctx, q, `WHERE w.order_id = $1 AND w.state = $2 ORDER BY c.id`, order, state)
}

// OfShipment lists the cartons that a shipment shipped.
func OfShipment(ctx context.Context, q sqlx.QueryerContext, shipment int64) ([]Carton, error) {
	return list(ctx, q, `WHERE w.shipment_id = $1 ORDER BY c.id`, shipment)
}

// OnLoad lists the cartons on a vehicle.
func OnLoad(ctx context.Context, q sqlx.QueryerContext, load int64) ([]Carton, error) {
	return list(ctx, q, `WHERE w.load_id = $1 ORDER BY o.id, c.id`, load)
}

// StackedOn lists the cartons of orders that stand on a pallet.
func StackedOn(ctx context.Context, q sqlx.QueryerContext, pallet int64) ([]Carton, error) {
	return list(ctx, q, `WHERE w.pallet_id = $1 ORDER BY c.id`, pallet)
}

// ByID reads a carton.
func ByID(ctx context.Context, q sqlx.QueryerContext, id int64) (Carton, error) {
	found, err := list(ctx, q, `WHERE c.id = $1`, id)
	if err == nil && len(found) == 0 {
		return Carton{}, documents.Missing("carton", fmt.Sprint(id))
	}
	if err != nil {
		return Carton{}, err
	}
	return found[0], nil
}

func list(ctx context.Context, q sqlx.QueryerContext, where string, args ...any) ([]Carton, error) {
	out := []Carton{}
	if err := sqlx.SelectContext(ctx, q, &out, columns+where, args...); err != nil {
		return nil, fmt.Errorf("reading cartons: %w", err)
	}
	ids := make([]int64, len(out))
	at := map[int64]int{}
	for i := range out {
		ids[i], at[out[i].ID], out[i].Contents = out[i].ID, i, []Content{}
	}
	var contents []Content
	err := sqlx.SelectContext(ctx, q, &contents, `
		SELECT c.carton_id, c.line_id, i.id AS item_id, i.sku, i.description, i.base_unit AS unit, l.id AS lot_id,
		       l.code AS lot, to_char(l.expires_on, 'YYYY-MM-DD') AS expires_on, s.code AS serial, c.quantity,
		       c.checked
		  FROM carton_contents c JOIN items i ON i.id = c.item_id LEFT JOIN lots l ON l.id = c.lot_id
		  LEFT JOIN serials s ON s.id = c.serial_id
		 WHERE c.carton_id = ANY($1) ORDER BY i.sku, l.code, c.line_id, s.code`, ids)
	if err != nil {
		return nil, fmt.Errorf("reading contents: %w", err)
	}
	for _, c := range contents {
		out[at[c.CartonID]].lay(c)
	}
	return out, nil
}

// lay adds contents; units of one line that differ in their serials alone stay one
// content.
func (c *Carton) lay(x Content) {
	x.Serials = []string{}
	if x.Serial != nil {
		if n := len(c.Contents); n > 0 && c.Contents[n-1].LineID == x.LineID && len(c.Contents[n-1].Serials) > 0 {
			last := &c.Contents[n-1]
			last.Serials, last.Quantity, last.Checked = append(last.Serials,
				*x.Serial), last.Quantity.Add(x.Quantity), last.Checked.Add(x.Checked)
			return
		}
		x.Serials = []string{*x.Serial}
	}
	c.Contents = append(c.Contents, x)
}

// IDs are those of cartons.
func IDs(of []Carton) []int64 {
	out := make([]int64, len(of))
	for i, c := range of {
		out[i] = c.ID
	}
	return out
}

// most is how many labels one request may make.
const most = 100

// MakeLabels writes blank cartons with new SSCCs under the company prefix.
func MakeLabels(ctx context.Context, tx *command.Tx, site int32, count int, prefix string) ([]Carton, error) {
	if count < 1 || count > most {
		return nil, refusal.New(refusal.LabelCount, "count", "%d labels cannot be made at once. Ask for 1 to %d.",
			count, most)
	}
	numbers, err := numbersOf(ctx, tx, prefix, count)
	if err != nil {
		return nil, err
	}
	var ids []int64
	err = tx.SelectContext(ctx, &ids, `
		WITH c AS (
			INSERT INTO cartons (sscc)
			SELECT sscc FROM unnest($1::text[]) WITH ORDINALITY AS x(sscc, n) ORDER BY n
			RETURNING id)
		INSERT INTO carton_work (carton_id, site_id, state, printed_at, changed_at)
		SELECT id, $2, 'blank', $3, $3 FROM c
		RETURNING carton_id`, numbers, site, tx.Now)
	if err != nil {
		return nil, fmt.Errorf("writing cartons: %w", err)
	}
	for _, id := range ids {
		documents.Made(tx, documents.Carton, id)
	}
	return ByIDs(ctx, tx, ids)
}

// numbersOf are the next SSCCs under the company prefix.
func numbersOf(ctx context.Context, tx *command.Tx, prefix string, count int) ([]string, error) {
	var next []int64
	err := tx.SelectContext(ctx, &next, `SELECT nextval('sscc_numbers') FROM generate_series(1, $1)`, count)
	if err != nil {
		return nil, fmt.Errorf("numbering cartons: %w", err)
	}
	out := make([]string, len(next))
	for i, n := range next {
		if out[i], err = gs1.MakeSSCC(0, prefix, n); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// number writes a carton or a pallet with the next SSCC under the company prefix.
func number(ctx context.Context, tx *command.Tx, prefix, kind string) (sscc string, id int64, err error) {
	numbers, err := numbersOf(ctx, tx, prefix, 1)
	if err != nil {
		return "", 0, err
	}
	if err := tx.GetContext(ctx, &id, `
		INSERT INTO cartons (sscc, kind) VALUES ($1, $2) RETURNING id`, numbers[0], kind); err != nil {
		return "", 0, fmt.Errorf("writing a carton: %w", err)
	}
	return numbers[0], id, nil
}

// Label is the carton's label.
func (c Carton) Label(from string) papers.CartonLabel {
	return papers.CartonLabel{SSCC: c.SSCC, Order: c.Order, To: c.Customer, Address: c.Address, From: from, Carrier: c.Carrier}
}

// Group lists the carton's contents for a paper.
func (c Carton) Group() papers.Group {
	g := papers.Group{Heading: "Carton " + c.SSCC}
	for _, x := range c.Contents {
		r := papers.Row{SKU: x.SKU, Description: x.Description, Quantity: x.Quantity.String(), Unit: x.Unit}
		if x.Lot != nil {
			r.Lot = "lot " + *x.Lot
			if x.ExpiresOn != nil {
				r.Lot += ", exp. " + *x.ExpiresOn
			}
		}
		if len(x.Serials) > 0 {
			r.Note = "Serials " + receiving.SerialRanges(x.Serials)
		}
		g.Rows = append(g.Rows, r)
	}
	return g
}

// standing reads the stock in cartons, carton by carton as they are named, and where it
// stands. Units whose serials were taken down on the way out stand each for itself, and goods
// whose lots were, lot by lot.
func standing(ctx context.Context, q sqlx.QueryerContext, cartons ...int64) ([]inCarton, error) {
	var out []inCarton
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT b.carton_id, b.item_id, coalesce(b.lot_id, u.lot_id) AS lot_id, b.location_id,
		       coalesce(b.serial_id, u.serial_id) AS serial_id, coalesce(s.code, '') AS serial,
		       coalesce(u.quantity, b.quantity) AS quantity
		  FROM balances b JOIN items i ON i.id = b.item_id
		  LEFT JOIN (SELECT carton_id, item_id, lot_id, serial_id, quantity FROM carton_contents
		              WHERE carton_id = ANY($1)
		              UNION ALL SELECT carton_id, item_id, lot_id, serial_id, quantity FROM restocks
		              WHERE done_at IS NULL AND carton_id = ANY($1)) AS u
		    ON u.carton_id = b.carton_id AND u.item_id = b.item_id
		   AND (i.tracking = 'serial_out' AND u.serial_id IS NOT NULL OR i.tracking = 'lot_out' AND u.lot_id IS NOT NULL)
		  LEFT JOIN serials s ON s.id = coalesce(b.serial_id, u.serial_id)
		 WHERE b.carton_id = ANY($1) AND b.quantity > 0
		 ORDER BY array_position($1, b.carton_id), b.item_id, coalesce(b.lot_id, u.lot_id), s.code`, cartons)
	if err != nil {
		return nil, fmt.Errorf("reading the stock in cartons: %w", err)
	}
	return out, nil
}

// Moves takes the carton with all that stands in it to a location.
func (c Carton) Moves(ctx context.Context, q sqlx.QueryerContext, to int32) ([]ledger.Move, error) {
	return Moves(ctx, q, to, c.ID)
}

// Moves takes cartons with all that stands in them to a location, carton by carton.
func Moves(ctx context.Context, q sqlx.QueryerContext, to int32, cartons ...int64) ([]ledger.Move, error) {
	all, err := standing(ctx, q, cartons...)
	if err != nil {
		return nil, err
	}
	moves := make([]ledger.Move, len(all))
	for i, s := range all {
		carton := s.Carton
		moves[i] = ledger.Move{Item: s.Item, Lot: s.Lot, Serial: s.Serial, SerialCode: s.Code, Quantity: s.Quantity,
			From: s.Location, FromBox: &carton, To: to, ToBox: &carton}
	}
	return moves, nil
}

// inCarton is stock in a carton, at the location where the carton stands.
type inCarton struct {
	Carton   int64           `db:"carton_id"`
	Item     int32           `db:"item_id"`
	Lot      *int64          `db:"lot_id"`
	Serial   *int64          `db:"serial_id"`
	Code     string          `db:"serial"`
	Location int32           `db:"location_id"`
	Quantity decimal.Decimal `db:"quantity"`
}
