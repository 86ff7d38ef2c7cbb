package sheets

import (
	"context"
	"fmt"

	"lanternrow/internal/people"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// facts are what the rules of a sheet need to know of the house, read once for all
// rows.
type facts struct {
	q sqlx.QueryerContext
	// person is who would write the rows.
	person people.Person
	site   int32
	// holds is what lies in each bin of the site, by code in capitals; taken are the
	// codes of its other locations.
	holds map[string]decimal.Decimal
	taken map[string]string
	zones map[string]bool
	// gtins are the SKUs that have them; parties the kind of each code and the code of
	// each name, in capitals.
	gtins   map[string]string
	parties map[string]string
	// skus are those of items, in capitals.
	skus  map[string]bool
	names map[string]string
	// packs are those of items, as SKU/NAME in capitals.
	packs map[string]bool
	// carriers are those of the catalog, by name.
	carriers map[string]bool
}

func gather(ctx context.Context, q sqlx.QueryerContext, site int32) (*facts, error) {
	person, err := people.Acting(ctx)
	if err != nil {
		return nil, err
	}
	f := &facts{q: q, person: person, site: site, holds: map[string]decimal.Decimal{}, taken: map[string]string{},
		zones: map[string]bool{},
		gtins: map[string]string{}, parties: map[string]string{}, names: map[string]string{}, skus: map[string]bool{}, packs: map[string]bool{},
		carriers: map[string]bool{}}
	for _, read := range []struct {
		query string
		args  []any
		keep  func(key, value string)
	}{
		{`
			SELECT upper(p.code) AS key, coalesce(sum(b.quantity), 0)::text AS value FROM locations p
			  LEFT JOIN balances b ON b.location_id = p.id WHERE p.site_id = $1 AND p.kind = 'bin' GROUP BY 1`,
			[]any{site}, func(k, v string) { f.holds[k] = decimal.RequireFromString(v) }},
		{`
			SELECT upper(code) AS key, kind AS value FROM locations WHERE site_id = $1 AND kind <> 'bin'`,
			[]any{site}, func(k, v string) { f.taken[k] = v }},
		{`
			SELECT code AS key, '' AS value FROM zones WHERE site_id = $1`,
			[]any{site}, func(k, _ string) { f.zones[k] = true }},
		{`
			SELECT p.gtin AS key, i.sku AS value FROM packs p JOIN items i ON i.id = p.item_id
				    WHERE p.gtin IS NOT NULL`, nil, func(k, v string) { f.gtins[k] = v }},
		{`SELECT upper(code) AS key, kind AS value FROM parties`, nil, func(k, v string) { f.parties[k] = v }},
		{`SELECT name AS key, '' AS value FROM carriers`, nil, func(k, _ string) { f.carriers[k] = true }},
		{`SELECT upper(sku) AS key, '' AS value FROM items`, nil, func(k, _ string) { f.skus[k] = true }},
		{`SELECT upper(i.sku || '/' || p.name) AS key, '' AS value FROM packs p JOIN items i ON i.id = p.item_id`, nil,
			func(k, _ string) { f.packs[k] = true }},
		{`SELECT upper(name) AS key, code AS value FROM parties`, nil, func(k, v string) { f.names[k] = v }},
	} {
		var rows []struct{ Key, Value string }
		if err := sqlx.SelectContext(ctx, q, &rows, read.query, read.args...); err != nil {
			return nil, fmt.Errorf("reading the house: %w", err)
		}
		for _, r := range rows {
			read.keep(r.Key, r.Value)
		}
	}
	return f, nil
}

// stands is how many kinds of goods stand at a location of the site.
func (f *facts) stands(ctx context.Context, code string) (n int, err error) {
	if err := sqlx.GetContext(ctx, f.q, &n, `
		SELECT count(*) FROM balances b JOIN locations p ON p.id = b.location_id WHERE p.site_id = $1 AND p.code = $2`,
		f.site, code); err != nil {
		return 0, fmt.Errorf("reading what stands at a location: %w", err)
	}
	return n, nil
}

// linesIn is how many lines of purchase orders are counted in a pack of an item.
func (f *facts) linesIn(ctx context.Context, sku, pack string) (n int, err error) {
	if err := sqlx.GetContext(ctx, f.q, &n, `
		SELECT count(*) FROM inbound_lines l JOIN packs p ON p.id = l.pack_id JOIN items i ON i.id = p.item_id
		 WHERE i.sku = $1 AND p.name = $2`, sku, pack); err != nil {
		return 0, fmt.Errorf("counting order lines: %w", err)
	}
	return n, nil
}

// moves is how many moves an item has made.
func (f *facts) moves(ctx context.Context, sku string) (n int, err error) {
	if err := sqlx.GetContext(ctx, f.q, &n, `
		SELECT count(*) FROM moves m JOIN items i ON i.id = m.item_id WHERE i.sku = $1`, sku); err != nil {
		return 0, fmt.Errorf("counting moves: %w", err)
	}
	return n, nil
}

// otherSite tells whether there is a site of that name beside the one that the sheet is of.
func (f *facts) otherSite(ctx context.Context, name string) (there bool, err error) {
	if err := sqlx.GetContext(ctx, f.q, &there, `
		SELECT EXISTS (SELECT FROM sites WHERE upper(name) = upper($1) AND id <> $2)`, name, f.site); err != nil {
		return false, fmt.Errorf("reading sites: %w", err)
	}
	return there, nil
}

// home tells whether an item has a home bin at the site.
func (f *facts) home(ctx context.Context, sku string) (there bool, err error) {
	if err := sqlx.GetContext(ctx, f.q, &there, `
		SELECT EXISTS (SELECT FROM item_sites s JOIN items i ON i.id = s.item_id
		  WHERE s.site_id = $1 AND upper(i.sku) = $2 AND s.home_id IS NOT NULL)`, f.site, sku); err != nil {
		return false, fmt.Errorf("reading a home bin: %w", err)
	}
	return there, nil
}
