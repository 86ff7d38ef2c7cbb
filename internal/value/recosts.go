package value

import (
	"context"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// An Entry is what goods of an item turned out to cost more than was written when they came, or less, and where that
// was when it was entered.
type Entry struct {
	ID       int64           `db:"id" json:"id"`
	At       time.Time       `db:"at" json:"at"`
	Person   string          `db:"person" json:"person"`
	Document string          `db:"document" json:"document"`
	Note     string          `db:"note" json:"note"`
	ItemID   int32           `db:"item_id" json:"item_id"`
	SKU      string          `db:"sku" json:"sku"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity" doc:"How much the moves brought whose goods cost more"`
	Amount   decimal.Decimal `db:"amount" json:"amount"`
	// What of the amount was left in stock, and what was gone, by each way of valuing.
	LeftAverage decimal.Decimal `db:"left_average" json:"left_average"`
	GoneAverage decimal.Decimal `db:"gone_average" json:"gone_average"`
	LeftFIFO    decimal.Decimal `db:"left_fifo" json:"left_fifo"`
	GoneFIFO    decimal.Decimal `db:"gone_fifo" json:"gone_fifo"`
}

// Entered is which entries are asked for.
type Entered struct {
	Document string    `query:"document" maxLength:"60" doc:"Only for this document"`
	Item     int32     `query:"item" doc:"Only of this item"`
	From     time.Time `query:"from" doc:"Entered after this instant"`
	To       time.Time `query:"to" doc:"Entered by this instant"`
	Before   int64     `query:"before" doc:"Only entries before this one: those that follow on a page"`
	Limit    int       `query:"limit" default:"200" minimum:"1" maximum:"500"`
}

// Entries reads entries behind one (0 for all), the newest first.
func Entries(ctx context.Context, q sqlx.QueryerContext, in Entered, behind int64) ([]Entry, error) {
	out := []Entry{}
	if err := sqlx.SelectContext(ctx, q, &out, `
		SELECT r.id, r.entered_at AS at, pe.name AS person, r.document, r.note, r.item_id, i.sku, b.quantity, b.amount,
		       p.left_average, p.gone_average, p.left_fifo, p.gone_fifo
		  FROM recosts r JOIN people pe ON pe.id = r.person_id JOIN items i ON i.id = r.item_id
		 CROSS JOIN LATERAL (SELECT sum(m.quantity) AS quantity, sum(x.amount) AS amount
		                       FROM recost_moves x JOIN moves m ON m.id = x.move_id WHERE x.recost_id = r.id) AS b
		 CROSS JOIN LATERAL (
		       SELECT coalesce(sum(value) FILTER (WHERE method = 'average' AND place >= 0), 0) AS left_average,
		              coalesce(sum(value) FILTER (WHERE method = 'average' AND place < 0), 0) AS gone_average,
		              coalesce(sum(value) FILTER (WHERE method = 'fifo' AND place >= 0), 0) AS left_fifo,
		              coalesce(sum(value) FILTER (WHERE method = 'fifo' AND place < 0), 0) AS gone_fifo
		         FROM recost_parts WHERE recost_id = r.id) AS p
		 WHERE ($1 = '' OR r.document = $1) AND ($2 = 0 OR r.item_id = $2) AND r.id > $3 AND ($4 = 0 OR r.id < $4)
		   AND r.entered_at > $5 AND ($6 OR r.entered_at <= $7)
		 ORDER BY r.id DESC LIMIT $8`,
		in.Document, in.Item, behind, in.Before, in.From, in.To.IsZero(), in.To, in.Limit); err != nil {
		return nil, fmt.Errorf("reading what was re-costed: %w", err)
	}
	return out, nil
}

// LastEntry is the newest entry; 0 while there is none.
func LastEntry(ctx context.Context, q sqlx.QueryerContext) (id int64, err error) {
	if err := sqlx.GetContext(ctx, q, &id, `SELECT coalesce(max(id), 0) FROM recosts`); err != nil {
		return 0, fmt.Errorf("reading the newest entry: %w", err)
	}
	return id, nil
}
