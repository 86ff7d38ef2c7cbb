package outbound

import "github.com/shopspring/decimal"

// Work is what is left to be picked of an order, in minutes of one person.
type Work struct {
	OrderID int64           `db:"order_id"`
	Minutes decimal.Decimal `db:"minutes"`
	// Lacking is so much of it that nothing lies free for.
	Lacking decimal.Decimal `db:"-"`
}
