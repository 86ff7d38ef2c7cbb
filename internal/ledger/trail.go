package ledger

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A TrailLine is one end of a move, as the history of whatever it is asked for.
type TrailLine struct {
	ID         int64           `db:"id" json:"id"`
	MoveID     int64           `db:"move_id" json:"move_id"`
	At         time.Time       `db:"entered_at" json:"at"`
	Person     string          `db:"person" json:"person"`
	Kind       string          `db:"kind" json:"kind"`
	SKU        string          `db:"sku" json:"sku"`
	Lot        *string         `db:"lot" json:"lot"`
	Serial     *string         `db:"serial" json:"serial"`
	Carton     *string         `db:"carton" json:"carton"`
	Location   string          `db:"location" json:"location"`
	LocationID int32           `db:"location_id" json:"location_id"`
	Other      string          `db:"other" json:"other"`
	Delta      decimal.Decimal `db:"delta" json:"delta"`
	// LocationAfter is the item's quantity at the location after it; SiteAfter that at
	// the whole site, only in an item's trail.
	LocationAfter decimal.Decimal  `db:"location_after" json:"location_after"`
	SiteAfter     *decimal.Decimal `db:"-" json:"site_after,omitempty"`
	Document      string           `db:"document" json:"document"`
	// Orders are those that the goods came on, where the document is an arrival. The ledger
	// leaves them to whoever knows orders.
	Orders []string `db:"-" json:"orders,omitempty"`
	Note   string   `db:"note" json:"note"`
}

// A Trail is a page of history.
type Trail struct {
	Lines []TrailLine `json:"lines"`
	// Next asks for the next page; empty at the end.
	Next string `json:"next"`
}

// A Question says whose trail is asked for: exactly one of Location, Item, Lot,
// Serial and Carton is set. Item goes with Site, and so does Filter; running balances of
// the site are of a trail that nothing narrows. It is told newest first, or from the oldest
// move on; After is the Next of the page before.
type Question struct {
	Location, Item, Site int32
	Lot, Carton          int64
	Serial               int64
	Filter               Filter
	Oldest               bool
	After                string
	Limit                int
}

// trailQuery takes the page first, from each side of the moves, and then looks up what
// it names. Both sides come in the order of moves, so that no more of them is read than
// the page has lines. The page's length stands in the text, so that the planner knows
// how few rows there are, however long the history is.
const trailQuery = `
	SELECT e.id, e.move_id, po.entered_at, pe.name AS person, po.kind, i.sku, l.code AS lot, s.code AS serial,
	       c.sscc AS carton, p.code AS location, p.id AS location_id,
	       o.code AS other, e.delta, e.location_after, po.document, po.note
	  FROM (SELECT * FROM (
	           (SELECT 2 * id AS id, id AS move_id, posting_id, item_id, lot_id, serial_id,
	           from_location AS location_id, from_carton AS carton_id, to_location AS other_id,
	                   -quantity AS delta, from_location_after AS location_after
	              FROM moves WHERE %[1]s AND from_after IS NOT NULL AND moves.id %[4]s $2 ORDER BY moves.id %[5]s
	             LIMIT %[3]d)
	           UNION ALL
	           (SELECT 2 * id + 1, id, posting_id, item_id, lot_id, serial_id, to_location, to_carton, from_location,
	           quantity, to_location_after
	              FROM moves WHERE %[2]s AND to_after IS NOT NULL AND moves.id %[4]s $2 ORDER BY moves.id %[5]s
	             LIMIT %[3]d)) AS both_sides
	         ORDER BY move_id %[5]s LIMIT %[3]d) AS e
	  JOIN postings po ON po.id = e.posting_id
	  JOIN people pe ON pe.id = po.person_id JOIN items i ON i.id = e.item_id JOIN locations p ON p.id = e.location_id
	  JOIN locations o ON o.id = e.other_id
	  LEFT JOIN lots l ON l.id = e.lot_id LEFT JOIN serials s ON s.id = e.serial_id
	  LEFT JOIN cartons c ON c.id = e.carton_id ORDER BY e.id %[5]s`

// TrailOf reads a page of history. Its cost does not grow with the history's length.
func TrailOf(ctx context.Context, q sqlx.QueryerContext, ask Question) (Trail, error) {
	cursor, carried, err := ask.place()
	if err != nil {
		return Trail{}, err
	}
	from, to, id := "from_location = $1", "to_location = $1", int64(ask.Location)
	switch {
	case ask.Item != 0:
		from, to, id = fmt.Sprintf("item_id = $1 AND from_site = %d",
			ask.Site), fmt.Sprintf("item_id = $1 AND to_site = %d", ask.Site), int64(ask.Item)
	case ask.Lot != 0:
		from, to, id = "lot_id = $1", "lot_id = $1", ask.Lot
	case ask.Serial != 0:
		from, to, id = "serial_id = $1", "serial_id = $1", ask.Serial
	case ask.Carton != 0:
		from, to, id = "from_carton = $1", "to_carton = $1", ask.Carton
	}
	// The two ends of one move stay on one page, so that a page has room for two.
	limit := min(max(ask.Limit, 2), 200)
	compare, order := "<", "DESC"
	if ask.Oldest {
		compare, order = ">", "ASC"
	}
	out := Trail{Lines: []TrailLine{}}
	narrow, args, err := ask.Filter.where(ask.Site, []any{id, cursor})
	if err != nil {
		return Trail{}, err
	}
	err = sqlx.SelectContext(ctx, q, &out.Lines, fmt.Sprintf(trailQuery, from+" AND "+narrow, to+" AND "+narrow,
		limit+1, compare, order), args...)
	if err != nil {
		return Trail{}, fmt.Errorf("reading a trail: %w", err)
	}
	more := len(out.Lines) > limit
	if more {
		if out.Lines[limit].MoveID == out.Lines[limit-1].MoveID {
			limit--
		}
		out.Lines = out.Lines[:limit]
	}
	balance := decimal.Zero
	if ask.Item != 0 && ask.Filter == (Filter{}) && len(out.Lines) > 0 {
		if balance, err = siteBalance(ctx, q, ask, carried, out.Lines[0].MoveID); err != nil {
			return Trail{}, err
		}
		balance = out.runningBalances(balance, ask.Oldest)
	}
	if more {
		out.Next = fmt.Sprintf("%d:%s", out.Lines[limit-1].MoveID, balance)
	}
	return out, nil
}

// place is the move behind which the page begins, and the site's balance that was carried to it.
func (ask Question) place() (move int64, carried string, err error) {
	if !ask.Oldest {
		move = int64(1) << 62
	}
	if ask.After == "" {
		return move, "", nil
	}
	if n, err := fmt.Sscanf(ask.After, "%d:%s", &move, &carried); n < 1 || err != nil && n < 2 && ask.Item != 0 {
		return 0, "", refusal.New(refusal.CursorMalformed, "after", "%q is not a location in the trail.", ask.After)
	}
	return move, carried, nil
}

// runningBalances says on each line what the site held after its move, both of whose ends stand
// beside each other, and returns the balance at the page's end. It begins with the balance after
// the first line's move, or before it where the oldest come first.
func (t Trail) runningBalances(balance decimal.Decimal, oldest bool) decimal.Decimal {
	for i := 0; i < len(t.Lines); {
		last, change := i, decimal.Zero
		for ; last < len(t.Lines) && t.Lines[last].MoveID == t.Lines[i].MoveID; last++ {
			change = change.Add(t.Lines[last].Delta)
		}
		if oldest {
			balance = balance.Add(change)
		}
		for after := balance; i < last; i++ {
			t.Lines[i].SiteAfter = &after
		}
		if !oldest {
			balance = balance.Sub(change)
		}
	}
	return balance
}

// siteBalance is the item's quantity at the site where the page begins: carried in the cursor, or
// that of now without what came since its newest line, or nothing before the oldest of all.
func siteBalance(
	ctx context.Context, q sqlx.QueryerContext, ask Question, carried string, newest int64,
) (decimal.Decimal, error) {
	if carried != "" {
		d, err := decimal.NewFromString(carried)
		if err != nil {
			return d, refusal.New(refusal.CursorMalformed, "after", "%q is not a location in the trail.", ask.After)
		}
		return d, nil
	}
	if ask.Oldest {
		return decimal.Zero, nil
	}
	var d decimal.Decimal
	err := sqlx.GetContext(ctx, q, &d, `
		SELECT coalesce((SELECT sum(b.quantity) FROM balances b JOIN locations p ON p.id = b.location_id
		                  WHERE b.item_id = $1 AND p.site_id = $2 AND b.quantity > 0), 0)
		     - coalesce((SELECT sum(quantity) FROM moves WHERE item_id = $1 AND to_site = $2 AND id > $3), 0)
		     + coalesce((SELECT sum(quantity) FROM moves WHERE item_id = $1 AND from_site = $2 AND id > $3),
			0)`, ask.Item, ask.Site, newest)
	if err != nil {
		return d, fmt.Errorf("reading a site's balance: %w", err)
	}
	return d, nil
}
