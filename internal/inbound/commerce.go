package inbound

import (
	"context"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Commerce is the commercial side of a kind of order: what it has to say when the floor
// takes back what came.
type Commerce interface {
	// MayTakeBack refuses to take so much of what came on a line back.
	MayTakeBack(ctx context.Context, q sqlx.QueryerContext, l Line, quantity decimal.Decimal) error
	// MayReceive refuses goods that cannot have come on a line.
	MayReceive(ctx context.Context, q sqlx.QueryerContext, l Line, g Arriving) error
}

// Arriving is what came on a line, as they are told apart: the codes of their lots and the serials of their units.
type Arriving struct {
	// Field is the line's in the request.
	Field         string
	Lots, Serials []string
	// Quantity is in base units.
	Quantity decimal.Decimal
}

// commerce is the commercial side of each kind that has one.
var commerce = map[Kind]Commerce{}

// Attach makes the commercial side of a kind known. It is called by the kind's own package
// when that is initialized; a kind without one is received all the same.
func Attach(k Kind, c Commerce) { commerce[k] = c }

// MayReceive refuses goods that cannot have come on a line of the order, where its commercial side knows.
func (o Order) MayReceive(ctx context.Context, q sqlx.QueryerContext, l Line, g Arriving) error {
	if c := commerce[o.Kind]; c != nil {
		return c.MayReceive(ctx, q, l, g)
	}
	return nil
}

// MayTakeBack refuses to take so much of what came on a line of the order back, where its
// commercial side forbids it.
func (o Order) MayTakeBack(ctx context.Context, q sqlx.QueryerContext, l Line, quantity decimal.Decimal) error {
	if c := commerce[o.Kind]; c != nil {
		return c.MayTakeBack(ctx, q, l, quantity)
	}
	return nil
}
