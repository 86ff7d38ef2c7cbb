package purchasing

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"lanternrow/internal/availability"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// wanted is an item that a site wants to have so much of, with whom it was last bought from
// and what it cost there, and what drafts ask for.
type wanted struct {
	ItemID     int32           `db:"item_id"`
	SupplierID int32           `db:"supplier_id"`
	Price      decimal.Decimal `db:"price"`
	Asked      decimal.Decimal `db:"asked"`
	receiving.Levels
}

// readWanted reads the site's items that are bought and have a target.
func readWanted(ctx context.Context, q sqlx.QueryerContext, site int32) ([]wanted, error) {
	var rows []wanted
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT s.item_id, s.reorder_point, s.target, coalesce(last.supplier_id, 0) AS supplier_id,
		       coalesce(last.price, i.cost) AS price,
		       coalesce((SELECT sum(l.quantity) FROM inbound_lines l JOIN inbound_orders o ON o.id = l.order_id
		                  WHERE l.item_id = s.item_id AND o.site_id = $1 AND o.state = 'draft' AND NOT l.closed),
		                0) AS asked
		  FROM item_sites s JOIN items i ON i.id = s.item_id
		  LEFT JOIN LATERAL (
		    SELECT o.supplier_id, x.price
		      FROM inbound_lines l JOIN purchase_orders o ON o.order_id = l.order_id
		      JOIN purchase_lines x ON x.line_id = l.id
		     WHERE l.item_id = s.item_id ORDER BY l.id DESC LIMIT 1) AS last ON true
		 WHERE s.site_id = $1 AND s.target > 0 AND i.bought ORDER BY i.sku`, site)
	if err != nil {
		return nil, fmt.Errorf("reading what a site wants to have: %w", err)
	}
	return rows, nil
}

// suggest lists what is at its reorder point, with how much to buy of it in the packs that it
// comes in, and of whom: all of it, or only what one supplier would be asked for. What is asked
// for already counts as on the way. now is the day on which it would be ordered.
func suggest(ctx context.Context, q sqlx.QueryerContext, site, supplier int32, now time.Time) ([]Suggested, error) {
	rows, err := readWanted(ctx, q, site)
	if err != nil {
		return nil, err
	}
	figures, err := ledger.FiguresAt(ctx, q, site)
	if err != nil {
		return nil, err
	}
	rows = slices.DeleteFunc(rows, func(w wanted) bool {
		f := figures[w.ItemID]
		return !w.Reached(f.Free, f.OnOrder.Add(w.Asked))
	})
	about, err := readSources(ctx, q, rows)
	if err != nil {
		return nil, err
	}
	elsewhere, err := availability.ReadElsewhere(ctx, q, site, idsOf(rows), now)
	if err != nil {
		return nil, err
	}
	out := []Suggested{}
	for _, w := range rows {
		offer := about.offer(w)
		if offer.SupplierID == supplier || supplier == 0 {
			s := about.suggest(w, offer, figures[w.ItemID], now)
			s.Elsewhere = availability.NeededOn(elsewhere[w.ItemID], s.ExpectedOn)
			out = append(out, s)
		}
	}
	slices.SortStableFunc(out, compareSuppliers)
	return out, nil
}

// sources are what items that are wanted can be bought as, and of whom.
type sources struct {
	items  map[int32]catalog.Item
	offers map[int32][]catalog.Offer
	names  map[int32]string
}

func idsOf(rows []wanted) []int32 {
	ids := make([]int32, len(rows))
	for i, w := range rows {
		ids[i] = w.ItemID
	}
	return ids
}

func readSources(ctx context.Context, q sqlx.QueryerContext, rows []wanted) (s sources, err error) {
	ids := idsOf(rows)
	if s.items, err = catalog.ItemsByID(ctx, q, ids); err != nil {
		return s, err
	}
	offers, err := catalog.OffersFor(ctx, q, ids)
	if err != nil {
		return s, err
	}
	s.offers = map[int32][]catalog.Offer{}
	for _, o := range offers {
		s.offers[o.ItemID] = append(s.offers[o.ItemID], o)
	}
	var names []struct {
		ID   int32
		Name string
	}
	if err := sqlx.SelectContext(ctx, q, &names, `SELECT id, name FROM parties WHERE kind = 'supplier'`); err != nil {
		return s, fmt.Errorf("reading suppliers: %w", err)
	}
	s.names = map[int32]string{}
	for _, n := range names {
		s.names[n.ID] = n.Name
	}
	return s, nil
}

// offer is what the supplier it was last bought from offers, or else the cheapest offer there
// is; one of nobody where the item was never bought and nobody offers it.
func (s sources) offer(w wanted) catalog.Offer {
	for _, o := range s.offers[w.ItemID] {
		if w.SupplierID == 0 || o.SupplierID == w.SupplierID {
			return o
		}
	}
	return catalog.Offer{ItemID: w.ItemID, SupplierID: w.SupplierID}
}

func (s sources) suggest(w wanted, offer catalog.Offer, f ledger.Figures, now time.Time) Suggested {
	item := s.items[w.ItemID]
	pack := catalog.Pack{Holds: decimal.NewFromInt(1)}
	if n := len(item.Packs); n > 0 {
		// The largest that it comes in, unless the supplier sells it in another.
		pack = item.Packs[n-1]
	}
	for _, p := range item.Packs {
		if p.ID == offer.PackID {
			pack = p
		}
	}
	price := w.Price
	if offer.Price != nil {
		price = *offer.Price
	}
	return Suggested{
		ItemStock:  catalog.ItemStock{Item: item, Figures: f, Levels: w.Levels, Offer: &offer},
		Asked:      w.Asked,
		SupplierID: offer.SupplierID, Supplier: s.names[offer.SupplierID], PackID: pack.ID, Price: price,
		ExpectedOn: now.AddDate(0, 0, max(offer.LeadDays, leastLead)).Format(time.DateOnly),
		Suggest:    w.Suggest(f.Free, f.OnOrder.Add(w.Asked), pack.Holds).AtLeast(offer.Minimum, pack.Holds),
	}
}

// leastLead is after how many days goods are expected where nobody knows better.
const leastLead = 3

// compareSuppliers sorts by supplier, those that nobody is known for last.
func compareSuppliers(a, b Suggested) int {
	key := func(s Suggested) string {
		if s.SupplierID == 0 {
			return "\U0010ffff"
		}
		return s.Supplier
	}
	return cmp.Compare(key(a), key(b))
}

// Restocking is what is ordered of what is suggested.
type Restocking struct {
	SiteID int32            `json:"site_id"`
	Lines  []RestockingLine `json:"lines" minItems:"1" maxItems:"500"`
}

// RestockingLine is one item of it.
type RestockingLine struct {
	ItemID     int32  `json:"item_id"`
	SupplierID int32  `json:"supplier_id"`
	PackID     int32  `json:"pack_id,omitempty" doc:"The quantity counts these packs; base units without"`
	Quantity   string `json:"quantity" maxLength:"40"`
}

// OrderSuggested makes a draft of an order for each supplier of what is suggested. What is not
// at its reorder point any more is refused: somebody has ordered it meanwhile.
func OrderSuggested(ctx context.Context, tx *command.Tx, in Restocking) ([]Order, error) {
	// Two people who order at once do it one after another.
	if _, err := tx.ExecContext(ctx, `SELECT FROM sites WHERE id = $1 FOR NO KEY UPDATE`, in.SiteID); err != nil {
		return nil, fmt.Errorf("holding a site's suggestions: %w", err)
	}
	suggestions, err := suggest(ctx, tx, in.SiteID, 0, tx.Now)
	if err != nil {
		return nil, err
	}
	by := map[int32]*NewOrder{}
	var suppliers []int32
	for i, l := range in.Lines {
		field := fmt.Sprintf("lines[%d]", i)
		at := slices.IndexFunc(suggestions, func(s Suggested) bool { return s.Item.ID == l.ItemID })
		if at < 0 {
			return nil, noLongerSuggested(ctx, tx, field, l.ItemID)
		}
		if l.SupplierID == 0 {
			return nil, refusal.New(refusal.SupplierUnknown, field+".supplier_id",
				"%s was never bought, and nobody offers it. Choose whom to buy it from.", suggestions[at].Item.SKU)
		}
		if by[l.SupplierID] == nil {
			suppliers = append(suppliers, l.SupplierID)
			by[l.SupplierID] = &NewOrder{SupplierID: l.SupplierID, SiteID: in.SiteID}
		}
		o := by[l.SupplierID]
		o.ExpectedOn = max(o.ExpectedOn, suggestions[at].ExpectedOn)
		o.Lines = append(o.Lines, NewLine{ItemID: l.ItemID, PackID: l.PackID, Quantity: l.Quantity,
			Price: suggestions[at].priceOf(l.SupplierID)})
	}
	out := []Order{}
	for _, s := range suppliers {
		o, err := CreateOrder(ctx, tx, *by[s])
		if err != nil {
			return nil, err
		}
		out = append(out, o)
	}
	return out, nil
}

// priceOf is the price that is suggested, of the supplier that is suggested; with another the
// order finds its own.
func (s Suggested) priceOf(supplier int32) string {
	if supplier != s.SupplierID {
		return ""
	}
	return s.Price.String()
}

func noLongerSuggested(ctx context.Context, q sqlx.QueryerContext, field string, id int32) error {
	item, err := catalog.ItemByID(ctx, q, id)
	if err != nil {
		return documents.FoundOr(err, refusal.New(refusal.ItemUnknown, field+".item_id", "There is no such item."))
	}
	return refusal.New(refusal.NotSuggested, field+".item_id",
		"%s is not at its reorder point any more: it came, or was ordered meanwhile. Leave it out.", item.SKU).
		Of(refusal.Conflict)
}

// offers are how the order's supplier sells its items.
func (o Order) offers(ctx context.Context, q sqlx.QueryerContext) (map[int32]catalog.Offer, error) {
	ids := make([]int32, len(o.Lines))
	for i, l := range o.Lines {
		ids[i] = l.ItemID
	}
	return catalog.OffersOf(ctx, q, o.SupplierID, ids)
}
