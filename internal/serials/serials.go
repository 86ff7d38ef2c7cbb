// Package serials knows units by their serials: which there are, and where each is.
package serials

import (
	"context"
	"fmt"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Unit is one piece that is known by its serial, where its last move left it.
type Unit struct {
	ID         int64  `db:"id"`
	ItemID     int32  `db:"item_id"`
	Code       string `db:"code"`
	LocationID int32  `db:"location_id"`
	Location   string `db:"location"`
	Kind       string `db:"kind"`
	Real       bool   `db:"real"`
	Site       string `db:"site"`
	SiteID     int32  `db:"site_id"`
	CartonID   *int64 `db:"carton_id"`
	Carton     string `db:"carton"`
	// Condition is what it was in after its last move.
	Condition posting.Condition `db:"condition"`
}

// Where says in words where the unit is.
func (u Unit) Where() string {
	switch {
	case u.LocationID == 0:
		return "nowhere yet"
	case u.Kind == "customer" || u.Kind == "supplier":
		return "with " + u.Location
	case u.Carton != "":
		return fmt.Sprintf("in carton …%s at %s", u.Carton[14:], u.at())
	}
	return "in " + u.at()
}

// at is its location, with the site where it has one.
func (u Unit) at() string {
	if u.Site == "" {
		return u.Location
	}
	return u.Location + ", " + u.Site
}

const columns = `
	SELECT s.id, s.item_id, s.code, coalesce(p.id, 0) AS location_id, coalesce(party.name, p.code, '') AS location,
	       coalesce(p.kind, '') AS kind, coalesce(p.real, false) AS real,
	       coalesce(x.name, '') AS site, coalesce(x.id, 0) AS site_id, m.to_carton AS carton_id, coalesce(c.sscc, '') AS carton,
	       coalesce(m.to_condition, 'good') AS condition
	  FROM serials s
	  LEFT JOIN LATERAL (SELECT to_location, to_carton, to_condition FROM moves WHERE serial_id = s.id ORDER BY id DESC
	    LIMIT 1) AS m ON true
	  LEFT JOIN locations p ON p.id = m.to_location LEFT JOIN sites x ON x.id = p.site_id
	  LEFT JOIN parties party ON party.location_id = p.id LEFT JOIN cartons c ON c.id = m.to_carton `

// Find reads the units of an item that have these codes; those that were never heard
// of are not among them.
func Find(ctx context.Context, q sqlx.QueryerContext, item int32, codes []string) (map[string]Unit, error) {
	var found []Unit
	if err := sqlx.SelectContext(ctx, q, &found, columns+`
		WHERE s.item_id = $1 AND s.code = ANY($2)`, item, codes); err != nil {
		return nil, fmt.Errorf("finding serials: %w", err)
	}
	out := make(map[string]Unit, len(found))
	for _, u := range found {
		out[u.Code] = u
	}
	return out, nil
}

// ByID reads a unit.
func ByID(ctx context.Context, q sqlx.QueryerContext, id int64) (u Unit, err error) {
	err = sqlx.GetContext(ctx, q, &u, columns+`WHERE s.id = $1`, id)
	return u, documents.Found(err, "serial", fmt.Sprint(id))
}

// A Key is what a unit is known by.
type Key struct {
	Item int32
	Code string
}

// Ensure finds the units with these codes or writes them, and returns their ids.
func Ensure(ctx context.Context, tx *command.Tx, item int32, codes []string) (map[string]int64, error) {
	keys := make([]Key, len(codes))
	for i, code := range codes {
		keys[i] = Key{item, code}
	}
	ids, err := EnsureAll(ctx, tx, keys)
	out := make(map[string]int64, len(ids))
	for k, id := range ids {
		out[k.Code] = id
	}
	return out, err
}

// EnsureAll is Ensure for units of several items, in two statements however many there are.
func EnsureAll(ctx context.Context, tx *command.Tx, keys []Key) (map[Key]int64, error) {
	if len(keys) == 0 {
		return nil, nil
	}
	items, codes := make([]int32, len(keys)), make([]string, len(keys))
	for i, k := range keys {
		items[i], codes[i] = k.Item, k.Code
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO serials (item_id, code)
		SELECT item, code FROM unnest($1::int[], $2::text[]) AS x(item, code) ORDER BY item, code
		ON CONFLICT DO NOTHING`, items, codes)
	if err != nil {
		return nil, fmt.Errorf("writing serials: %w", err)
	}
	var rows []struct {
		ID   int64
		Item int32
		Code string
	}
	err = tx.SelectContext(ctx, &rows, `
		SELECT s.id, s.item_id AS item, s.code
		  FROM unnest($1::int[], $2::text[]) AS x(item, code)
		  JOIN serials s ON s.item_id = x.item AND s.code = x.code`, items, codes)
	if err != nil {
		return nil, fmt.Errorf("reading serials: %w", err)
	}
	out := make(map[Key]int64, len(rows))
	for _, r := range rows {
		out[Key{r.Item, r.Code}] = r.ID
	}
	return out, nil
}

// Absent refuses the first of these codes whose unit is in stock already and not at the
// location that it is to come from, by name and location. Units that were here before and left
// are returned, for the person to know.
func Absent(
	ctx context.Context, q sqlx.QueryerContext, field string, from, item int32, sku string, codes []string,
) (back []Unit, err error) {
	if len(codes) == 0 {
		return nil, nil
	}
	found, err := Find(ctx, q, item, codes)
	if err != nil {
		return nil, err
	}
	for _, code := range codes {
		u, known := found[code]
		switch {
		case !known || u.LocationID == 0 || u.Real && u.LocationID == from:
		case u.Real:
			return nil, refusal.New(refusal.SerialInStock, field,
				"Serial %s of %s is in stock already, %s. Scan the label again; if it says the same, set the unit "+
					"aside and ask the lead.",
				code, sku, u.Where()).Of(refusal.Conflict).With("serial", code).With("location", u.Location)
		default:
			back = append(back, u)
		}
	}
	return back, nil
}

// Spread makes one move for each unit out of a move of several, where the item is known
// unit by unit from arrival on. Without codes all units there move, or nobody knows
// which; a code whose unit is elsewhere is refused with its location. Moves of other items
// stay as they are.
func Spread(
	ctx context.Context, q sqlx.QueryerContext, field, tracking, sku string, move ledger.Move, codes []string,
) ([]ledger.Move, error) {
	if tracking != receiving.Serial {
		if len(codes) > 0 {
			return nil, refusal.New(refusal.SerialUnwanted, field,
				"%s is not known unit by unit here. Leave the serials out.", sku)
		}
		return []ledger.Move{move}, nil
	}
	here, err := At(ctx, q, stockOf(move), state(move))
	if err != nil {
		return nil, err
	}
	byCode := make(map[string]Unit, len(here))
	for _, u := range here {
		byCode[u.Code] = u
	}
	if len(codes) == 0 {
		if !move.Quantity.Equal(decimal.NewFromInt(int64(len(here)))) {
			return nil, refusal.New(refusal.SerialsMissing, field,
				"%d of %s are there, and %s move: say which. Scan their serials.", len(here), sku, move.Quantity).With("here", len(here))
		}
		for _, u := range here {
			codes = append(codes, u.Code)
		}
	}
	if err := receiving.CheckSerials(field, sku, codes); err != nil {
		return nil, err
	}
	if !move.Quantity.Equal(decimal.NewFromInt(int64(len(codes)))) {
		return nil, refusal.New(refusal.SerialsTotal, field,
			"%d serials of %s are named, and %s move. Name one for each.", len(codes), sku, move.Quantity).With("serials", len(codes))
	}
	moves := make([]ledger.Move, 0, len(codes))
	for _, code := range codes {
		u, there := byCode[code]
		if !there {
			return nil, elsewhere(ctx, q, field, move.Item, sku, code)
		}
		one := move
		one.Quantity, one.Serial, one.SerialCode = decimal.NewFromInt(1), &u.ID, u.Code
		moves = append(moves, one)
	}
	return moves, nil
}

// elsewhere refuses a unit that is not where it is looked for.
func elsewhere(ctx context.Context, q sqlx.QueryerContext, field string, item int32, sku, code string) error {
	found, err := Find(ctx, q, item, []string{code})
	if err != nil {
		return err
	}
	if u, known := found[code]; known {
		return refusal.New(refusal.SerialElsewhere, field,
			"Serial %s of %s is not here by our books: it is %s. Scan the label again; if it says the same, ask "+
				"the lead.", code, sku, u.Where()).Of(refusal.Conflict).With("serial", code)
	}
	return refusal.New(refusal.SerialUnknown, field, "There is no serial %s of %s. Scan the label again.", code,
		sku).Of(refusal.Conflict).With("serial", code)
}

func stockOf(m ledger.Move) ledger.Stock {
	return ledger.Stock{Location: m.From, Item: m.Item, Lot: m.Lot, Carton: m.FromBox}
}

func state(m ledger.Move) posting.Condition {
	if m.FromState == "" {
		return posting.Good
	}
	return m.FromState
}

// At lists the units of an item at a location, in a carton or loose, by their codes.
func At(ctx context.Context, q sqlx.QueryerContext, s ledger.Stock, condition posting.Condition) ([]Unit, error) {
	var out []Unit
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT s.id, s.code FROM balances b JOIN serials s ON s.id = b.serial_id
		 WHERE b.location_id = $1 AND b.item_id = $2 AND coalesce(b.carton_id, 0) = coalesce($3, 0)
		   AND b.condition = $4 AND b.quantity > 0 ORDER BY s.code`, s.Location, s.Item, s.Carton, condition)
	if err != nil {
		return nil, fmt.Errorf("reading the serials at a location: %w", err)
	}
	return out, nil
}

// Codes are the units' codes.
func Codes(units []Unit) []string {
	out := make([]string, len(units))
	for i, u := range units {
		out[i] = u.Code
	}
	return out
}
