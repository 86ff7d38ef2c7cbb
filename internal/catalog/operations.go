package catalog

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"lanternrow/internal/core/receiving"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/database"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

// A Site is a building with its own floor.
type Site struct {
	ID         int32  `db:"id" json:"id"`
	Code       string `db:"code" json:"code"`
	Name       string `db:"name" json:"name"`
	Timezone   string `db:"timezone" json:"timezone"`
	ScanBin    bool   `db:"scan_bin" json:"scan_bin"`
	ScanItem   bool   `db:"scan_item" json:"scan_item"`
	ScanCarton bool   `db:"scan_carton" json:"scan_carton"`
	InsistBins bool   `db:"insist_bins" json:"insist_bins"`
}

// A Party is a supplier or a customer.
type Party struct {
	ID      int32  `db:"id" json:"id"`
	Kind    string `db:"kind" json:"kind"`
	Code    string `db:"code" json:"code"`
	Name    string `db:"name" json:"name"`
	Address string `db:"address" json:"address"`
	Contact string `db:"contact" json:"contact"`
	Carrier string `db:"carrier" json:"carrier"`
	Email   string `db:"email" json:"email"`
	Terms   string `db:"terms" json:"terms"`
}

// SiteByID reads a site.
func SiteByID(ctx context.Context, q sqlx.QueryerContext, id int32) (s Site, err error) {
	all, err := Sites(ctx, q)
	if err != nil {
		return s, err
	}
	i := slices.IndexFunc(all, func(s Site) bool { return s.ID == id })
	if i < 0 {
		return s, documents.Missing("site", strconv.Itoa(int(id)))
	}
	return all[i], nil
}

// Sites lists all sites.
func Sites(ctx context.Context, q sqlx.QueryerContext) ([]Site, error) {
	sites := []Site{}
	if err := sqlx.SelectContext(ctx, q, &sites, `
		SELECT id, code, name, timezone, scan_bin, scan_item, scan_carton, insist_bins
				  FROM sites ORDER BY id`); err != nil {
		return nil, fmt.Errorf("listing sites: %w", err)
	}
	return sites, nil
}

// findParties finds suppliers or customers by the first letters of any word of
// their name, or by code.
func findParties(ctx context.Context, q sqlx.QueryerContext, kind, text string) ([]Party, error) {
	parties := []Party{}
	err := sqlx.SelectContext(ctx, q, &parties, `
		SELECT id, kind, code, name, address, contact, carrier, email, terms FROM parties
		 WHERE kind = $1
		   AND ($2 = '' OR lower(name) LIKE lower($2) || '%' OR lower(name) LIKE '% ' || lower($2) || '%'
		   OR upper(code) LIKE upper($2) || '%')
		 ORDER BY name LIMIT 30`, kind, database.LikeLiteral(strings.TrimSpace(text)))
	if err != nil {
		return nil, fmt.Errorf("finding parties: %w", err)
	}
	return parties, nil
}

// ItemStock is an item with its figures at a site.
type ItemStock struct {
	Item    Item           `json:"item"`
	Figures ledger.Figures `json:"figures"`
	// Levels are how much of it the site wants to have.
	Levels receiving.Levels `json:"levels"`
	// Offer is how a supplier sells it, where one was asked for and does.
	Offer *Offer `json:"offer,omitempty"`
}

// levelsOf reads how much of each of these items a site wants to have.
func levelsOf(
	ctx context.Context, q sqlx.QueryerContext, site int32, items []Item,
) (map[int32]receiving.Levels, error) {
	ids := make([]int32, len(items))
	for i, item := range items {
		ids[i] = item.ID
	}
	var rows []struct {
		ItemID int32 `db:"item_id"`
		receiving.Levels
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT item_id, reorder_point, target FROM item_sites WHERE site_id = $1 AND item_id = ANY($2)`,
		site, ids); err != nil {
		return nil, fmt.Errorf("reading levels: %w", err)
	}
	out := make(map[int32]receiving.Levels, len(rows))
	for _, r := range rows {
		out[r.ItemID] = r.Levels
	}
	return out, nil
}

// stockOf reads the figures of items at a site, and what a supplier offers of them.
func stockOf(
	ctx context.Context, q sqlx.QueryerContext, site, supplier int32, items []Item, levels map[int32]receiving.Levels,
) ([]ItemStock, error) {
	ids := make([]int32, len(items))
	for i, item := range items {
		ids[i] = item.ID
	}
	figures, err := ledger.FiguresFor(ctx, q, ids, site)
	if err != nil {
		return nil, err
	}
	offers, err := OffersOf(ctx, q, supplier, ids)
	out := []ItemStock{}
	for _, item := range items {
		x := ItemStock{Item: item, Figures: figures[item.ID], Levels: levels[item.ID]}
		if o, offered := offers[item.ID]; offered {
			x.Offer = &o
		}
		out = append(out, x)
	}
	return out, err
}

// Register adds the catalog's operations.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/sites", "list-sites", "Sites", web.Everyone,
		func(ctx context.Context, _ *struct{}) ([]Site, error) { return Sites(ctx, db) })
	web.Query(r, http.MethodGet, "/parties", "find-parties", "Suppliers or customers by first letters", web.Everyone,
		func(ctx context.Context, in *struct {
			Kind string `query:"kind" enum:"supplier,customer"`
			Text string `query:"q" maxLength:"80"`
		}) ([]Party, error) {
			return findParties(ctx, db, in.Kind, in.Text)
		})
	web.Query(r, http.MethodGet, "/items", "find-items", "Items by SKU, GTIN or words, with their figures at a site",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Text     string `query:"q" maxLength:"80"`
			Site     int32  `query:"site"`
			Supplier int32  `query:"supplier" doc:"With what this supplier offers of them"`
			Limit    int    `query:"limit" default:"12" minimum:"1" maximum:"100"`
		}) ([]ItemStock, error) {
			items, err := FindItems(ctx, db, in.Text, in.Limit)
			if err != nil {
				return nil, err
			}
			levels, err := levelsOf(ctx, db, in.Site, items)
			if err != nil {
				return nil, err
			}
			return stockOf(ctx, db, in.Site, in.Supplier, items, levels)
		})
	web.Query(r, http.MethodPost, "/items/count", "count-items", "Quantities in packs, counted in base units", web.Everyone,
		func(ctx context.Context, in *struct {
			Body struct {
				Counted []Counted `json:"counted" maxItems:"500"`
			}
		}) ([]Count, error) {
			return countAll(ctx, db, in.Body.Counted)
		})
	web.Query(r, http.MethodGet, "/location", "find-location", "The location of a site that a code names exactly",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32  `query:"site"`
			Code string `query:"code" minLength:"1" maxLength:"60"`
		}) (Location, error) {
			return LocationByCode(ctx, db, "code", in.Code, in.Site)
		})
	web.Query(r, http.MethodGet, "/locations", "list-locations", "Locations of a site by kind or first letters",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32  `query:"site"`
			Kind string `query:"kind"`
			Text string `query:"q" maxLength:"60"`
		}) ([]Location, error) {
			locations := []Location{}
			err := db.SelectContext(ctx, &locations, `
				SELECT id, site_id, kind, code, aisle, bay, level, x, y, max_units FROM locations
				 WHERE site_id = $1 AND ($2 = '' OR kind = $2) AND upper(code) LIKE upper($3) || '%'
				 ORDER BY code LIMIT 50`, in.Site, in.Kind, database.LikeLiteral(in.Text))
			return locations, err
		})
}
