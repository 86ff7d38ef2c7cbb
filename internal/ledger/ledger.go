// Package ledger is the only door to stock.
//
// Stock changes by postings, each of one or more moves between locations. Nothing in a
// posting can be altered afterwards; what lies where is the sum of all moves. The
// rules are kept by the database itself (see its ledger_ functions): the application
// has no right to write these tables in any other way.
package ledger

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Move takes a quantity of an item from one location to another, in base units.
type Move struct {
	Item     int32           `json:"item"`
	Lot      *int64          `json:"lot,omitempty"`
	Serial   *int64          `json:"serial,omitempty"`
	Quantity decimal.Decimal `json:"quantity"`
	From     int32           `json:"from_location"`
	FromBox  *int64          `json:"from_carton,omitempty"`
	To       int32           `json:"to_location"`
	ToBox    *int64          `json:"to_carton,omitempty"`
	// FromState and ToState are the goods' condition at either end: Good when empty.
	FromState posting.Condition `json:"from_condition,omitempty"`
	ToState   posting.Condition `json:"to_condition,omitempty"`
	Cost      *decimal.Decimal  `json:"cost,omitempty"`
	// Reservation is the reservation that this move uses up, so far as it goes.
	Reservation *int64 `json:"reservation,omitempty"`

	// LotCode and SerialCode name the lot and the unit for a plan, where they are not
	// written yet.
	LotCode    string `json:"-"`
	SerialCode string `json:"-"`
}

// A Head says what a posting is for.
type Head struct {
	Kind     posting.Kind
	Document string
	Note     string
	// HappenedAt is when it was done on the floor; zero is now.
	HappenedAt time.Time
}

type head struct {
	Kind       posting.Kind `json:"kind"`
	Person     int32        `json:"person"`
	Document   string       `json:"document"`
	Note       string       `json:"note"`
	Key        string       `json:"key"`
	HappenedAt *time.Time   `json:"happened_at,omitempty"`
	EnteredAt  *time.Time   `json:"entered_at,omitempty"`
}

// stockRank is that of stock in the order of locks: behind all documents.
const stockRank = 100

// Post writes a posting, in one round trip, and returns it. It refuses, and the whole
// transaction with it, what would take more than there is or what is reserved for
// another order: a Shortage, which Explain words. It locks the stock itself; no document
// is held after it.
func Post(ctx context.Context, tx *command.Tx, h Head, moves []Move) (posting int64, err error) {
	if err := mayMove(ctx, tx, moves); err != nil {
		return 0, err
	}
	headText, movesText, err := written(tx, h, moves)
	if err != nil {
		return 0, err
	}
	if err := tx.GetContext(ctx, &posting, postQuery, headText, movesText); err != nil {
		return 0, explain(err, "posting")
	}
	return posting, nil
}

// PostLast has a posting go along with the commit: for commands that do nothing after it.
// What Post refuses is then refused by the commit.
func PostLast(ctx context.Context, tx *command.Tx, h Head, moves []Move) error {
	if err := mayMove(ctx, tx, moves); err != nil {
		return err
	}
	headText, movesText, err := written(tx, h, moves)
	if err == nil {
		tx.Last(func(err error) error { return explain(err, "posting") }, postQuery, headText, movesText)
	}
	return err
}

// mayMove refuses moves at a site that whoever makes them may not act at.
func mayMove(ctx context.Context, tx *command.Tx, moves []Move) error {
	locations := make([]int32, 0, 2*len(moves))
	for _, m := range moves {
		locations = append(locations, m.From, m.To)
	}
	return mayActIn(ctx, tx, locations...)
}

// mayActIn refuses locations of a site that whoever acts may not act at. It asks nothing of most people, who may act at
// all.
func mayActIn(ctx context.Context, tx *command.Tx, locations ...int32) error {
	if tx.Anywhere() {
		return nil
	}
	var sites []int32
	if err := tx.SelectContext(ctx, &sites, `
		SELECT DISTINCT site_id FROM locations WHERE id = ANY($1) AND site_id IS NOT NULL ORDER BY 1`, locations); err != nil {
		return fmt.Errorf("reading the sites of locations: %w", err)
	}
	return tx.At(ctx, sites...)
}

const postQuery = `SELECT ledger_post($1, $2)`

// written is a posting as ledger_post reads it. Its stock is as good as held from here on.
func written(tx *command.Tx, h Head, moves []Move) (headText, movesText string, err error) {
	if len(moves) == 0 {
		return "", "", refusal.New(refusal.NothingMoves, "", "Nothing would move. Enter a quantity.")
	}
	out := head{Kind: h.Kind, Person: tx.Person.ID, Document: h.Document, Note: h.Note, Key: tx.Key}
	if !h.HappenedAt.IsZero() {
		out.HappenedAt = &h.HappenedAt
	}
	if tx.Backdate {
		out.EnteredAt, out.HappenedAt = &tx.Now, &tx.Now
	}
	first, err1 := json.Marshal(out)
	second, err2 := json.Marshal(moves)
	if err := errors.Join(err1, err2); err != nil {
		return "", "", fmt.Errorf("writing a posting: %w", err)
	}
	tx.Held.Rank = stockRank
	return string(first), string(second), nil
}

// Stock is goods of one kind at one location.
type Stock struct {
	Location, Item      int32
	Lot, Serial, Carton *int64
}

// Reserve reserves stock for an order line, in base units, and returns the reservation. Of units with
// serials it reserves so many of those that lie there, unless one is named. What is not free is a
// Shortage. The line's order is held; the stock is locked here.
func Reserve(ctx context.Context, tx *command.Tx, s Stock, line int64, quantity decimal.Decimal) (int64, error) {
	if err := mayActIn(ctx, tx, s.Location); err != nil {
		return 0, err
	}
	var reservation int64
	tx.Held.Rank = stockRank
	err := tx.GetContext(ctx, &reservation, `
		SELECT ledger_reserve($1, $2, $3, $4, $5, $6,
		$7)`, s.Location, s.Item, s.Lot, s.Serial, s.Carton, line, quantity)
	if err != nil {
		return 0, explain(err, "reserving")
	}
	return reservation, nil
}

// A Reservation is stock that is to be reserved for an order line.
type Reservation struct {
	Stock
	Line     int64
	Quantity decimal.Decimal
}

// ReserveAll is Reserve for several, in one round trip; the reservations come in the same order.
func ReserveAll(ctx context.Context, tx *command.Tx, wanted []Reservation) ([]int64, error) {
	n := len(wanted)
	locations, items, lots, serials, cartons, lines, quantities := make([]int32, n), make([]int32, n), make([]*int64,
		n), make([]*int64, n), make([]*int64, n), make([]int64, n), make([]string, n)
	for i, t := range wanted {
		locations[i], items[i], lots[i], serials[i], cartons[i], lines[i], quantities[i] = t.Location, t.Item, t.Lot, t.Serial, t.Carton, t.Line, t.Quantity.String()
	}
	var rows []struct {
		N           int
		Reservation int64
	}
	tx.Held.Rank = stockRank
	// Reserved in the order in which locations are locked, so that two never wait in a ring.
	err := tx.SelectContext(ctx, &rows, `
		SELECT n, ledger_reserve(location, item, lot, serial, carton, line, quantity::numeric) AS reservation FROM (
			SELECT *
			  FROM unnest($1::int[], $2::int[], $3::bigint[], $4::bigint[], $5::bigint[], $6::bigint[], $7::text[])
			       WITH ORDINALITY
			    AS t(location, item, lot, serial, carton, line, quantity, n)
				    ORDER BY location, item, n OFFSET 0) AS t`, locations, items, lots, serials, cartons, lines,
		quantities)
	if err != nil {
		return nil, explain(err, "reserving")
	}
	out := make([]int64, n)
	for _, r := range rows {
		out[r.N-1] = r.Reservation
	}
	return out, nil
}

// Unreserve frees reserved stock. A reservation that is gone already is fine.
func Unreserve(ctx context.Context, tx *command.Tx, reservation int64) error {
	tx.Held.Rank = stockRank
	if _, err := tx.ExecContext(ctx, `SELECT ledger_unreserve($1)`, reservation); err != nil {
		return fmt.Errorf("unreserving: %w", err)
	}
	return nil
}

// LockBins keeps the contents of these bins as they are until the transaction ends,
// so that what still fits into them stays true between plan and post. It refuses bins of a site that
// whoever would change them may not act at.
func LockBins(ctx context.Context, tx *command.Tx, locations []int32) error {
	if err := mayActIn(ctx, tx, locations...); err != nil {
		return err
	}
	tx.Held.Rank = stockRank
	_, err := tx.ExecContext(ctx, `
		SELECT pg_advisory_xact_lock(p) FROM (SELECT DISTINCT unnest($1::int[])::bigint AS p ORDER BY 1) AS t`,
		locations)
	if err != nil {
		return fmt.Errorf("locking bins: %w", err)
	}
	return nil
}

// LockStock keeps all stock that these moves touch to the transaction, in the one order, so
// that several postings of it may follow in any.
func LockStock(ctx context.Context, tx *command.Tx, moves []Move) error {
	tx.Held.Rank = stockRank
	text, err := json.Marshal(moves)
	if err != nil {
		return fmt.Errorf("locking stock: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `SELECT ledger_lock($1)`, string(text)); err != nil {
		return fmt.Errorf("locking stock: %w", err)
	}
	return nil
}

// shortage is what the database says of a move that stock does not allow.
type shortage struct {
	Line     int             `json:"line"`
	Location int32           `json:"location"`
	Item     int32           `json:"item"`
	Lot      *int64          `json:"lot"`
	Serial   *int64          `json:"serial"`
	Have     decimal.Decimal `json:"have"`
	Asked    decimal.Decimal `json:"asked"`
	Reserved decimal.Decimal `json:"reserved"`
}

// explain reads the ledger's error codes as a Shortage. The transaction is dead by
// then, so Explain reads the names outside of it.
func explain(err error, doing string) error {
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.ConstraintName == "balances_serial" {
		return refusal.New(refusal.SerialInStock, "",
			"One of these serials is in stock already: somebody received it in a moment ago. Look again.").Of(refusal.Conflict)
	}
	if errors.As(err, &pg) && pg.Code == "LR011" {
		return recalled(pg.Detail, err)
	}
	if !errors.As(err, &pg) || pg.Code != "LR001" && pg.Code != "LR002" {
		return fmt.Errorf("%s: %w", doing, err)
	}
	var s shortage
	if e := json.Unmarshal([]byte(pg.Detail), &s); e != nil {
		return fmt.Errorf("%s: %w", doing, err)
	}
	return &Shortage{shortage: s, reserved: pg.Code == "LR002"}
}

// A Shortage is a move that stock does not allow. Explain makes a refusal of it.
type Shortage struct {
	shortage
	reserved bool
}

func (s *Shortage) Error() string {
	return fmt.Sprintf("location %d has %s of item %d (reserved %s), %s asked", s.Location, s.Have, s.Item,
		s.Reserved, s.Asked)
}

// Explain names what a Shortage or Recalled is about; any other error is returned as it is.
func Explain(ctx context.Context, q sqlx.QueryerContext, err error) error {
	var held *Recalled
	if errors.As(err, &held) {
		return held.refusal(ctx, q)
	}
	var s *Shortage
	if !errors.As(err, &s) {
		return err
	}
	var n struct {
		Location, SKU, Unit string
		Lot, Serial         *string
		Orders              *string
	}
	e := sqlx.GetContext(ctx, q, &n, `
		SELECT p.code AS location, i.sku, i.base_unit AS unit, l.code AS lot,
		       (SELECT code FROM serials WHERE id = $4) AS serial,
		       (SELECT string_agg(DISTINCT o.number, ', ') FROM reservations
		       JOIN outbound_lines sl ON sl.id = reservations.line_id
		          JOIN outbound_orders o ON o.id = sl.order_id
		         WHERE reservations.location_id = p.id AND reservations.item_id = i.id
		           AND coalesce(reservations.lot_id, 0) = coalesce($3, 0)
		           AND (reservations.serial_id IS NULL OR reservations.serial_id = $4)) AS orders
		  FROM locations p, items i LEFT JOIN lots l ON l.id = $3 WHERE p.id = $1 AND i.id = $2`,
		s.Location, s.Item, s.Lot, s.Serial)
	if e != nil {
		return fmt.Errorf("wording a shortage: %w", errors.Join(e, err))
	}
	what := n.SKU
	if n.Lot != nil {
		what += " lot " + *n.Lot
	}
	if n.Serial != nil {
		what += " serial " + *n.Serial
	}
	var r *refusal.Refusal
	if s.reserved {
		orders := "another order"
		if n.Orders != nil {
			orders = *n.Orders
		}
		r = refusal.New(refusal.Reserved, "",
			"%s holds %s of %s, and %s of them are reserved for %s. At most %s can be taken, not %s.",
			n.Location, s.Have, what, s.Reserved, orders, s.Have.Sub(s.Reserved), s.Asked).With("reserved", s.Reserved).With("orders", orders)
	} else {
		r = refusal.New(refusal.NotEnough, "", "%s holds %s of %s, not %s. Look again, or take less.", n.Location,
			s.Have, what, s.Asked)
	}
	return r.Of(refusal.Conflict).With("have", s.Have).With("asked", s.Asked).With("location", n.Location)
}

// Topics names what to tell browsers when these locations changed.
func Topics(lamps ...string) []string { return append(strings.Split("stock,floor", ","), lamps...) }
