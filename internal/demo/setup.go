package demo

import (
	"context"
	"fmt"

	"lanternrow/internal/core/gs1"
	"lanternrow/internal/people"

	"github.com/jmoiron/sqlx"
)

// Quay House's floor, in metres.
const (
	aisleGap, firstAisle   = 4.0, 4.0
	bays, levels           = 12, 3
	bayGap                 = 1.5
	frontY, middleY, backY = 0.0, 10.0, 20.5
)

// bayY is how far down the aisle a bay is: six bays, the middle cross aisle, six more.
func bayY(bay int) float64 {
	if bay <= bays/2 {
		return 1 + bayGap*float64(bay-1)
	}
	return middleY + 1.5 + bayGap*float64(bay-1-bays/2)
}

// setup writes what exists before goods move.
func setup(ctx context.Context, db *sqlx.DB, prefix string) error {
	tx, err := db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer func() { _ = tx.Rollback() }()
	do := func(query string, args ...any) {
		if err == nil {
			if _, e := tx.ExecContext(ctx, query, args...); e != nil {
				err = fmt.Errorf("%.60s: %w", query, e)
			}
		}
	}
	locations(do)
	parties(do)
	items(do, prefix)
	rules(do)
	staff(do)
	if err != nil {
		return err
	}
	return tx.Commit()
}

// do runs a statement of the set-up, unless one failed before.
type do func(query string, args ...any)

// locations writes sites, zones, bins and all other locations.
func locations(do do) {
	do(`
		INSERT INTO sites (code, name, timezone, cross_aisles, straight)
		VALUES ('QH', 'Quay House', 'Europe/London', $1, true), ('HL', 'Hill Loft', 'Europe/London', $2, false),
		  ('FY', 'Ferry Yard', 'Europe/London', $3, false)`,
		[]float64{frontY, middleY, backY}, []float64{0, 8}, []float64{0, 7})
	do(`INSERT INTO locations (kind, code) VALUES ('transit', 'Between sites'), ('lost', 'Lost and found')`)
	for _, z := range []struct{ code, name, accepts string }{
		{"AB", "Small parts", ""}, {"C", "Fluids", "fluid"}, {"DE", "General", ""}, {"F", "Heavy goods", "heavy"}} {
		do(`
			INSERT INTO zones (site_id, code, name, accepts) VALUES (1, $1, $2,
			string_to_array($3, ','))`, z.code, z.name, z.accepts)
	}
	for i, aisle := range "ABCDEF" {
		x := firstAisle + aisleGap*float64(i)
		do(`INSERT INTO aisles VALUES (1, $1, $2)`, string(aisle), x)
		for bay := 1; bay <= bays; bay++ {
			for level := 1; level <= levels; level++ {
				for _, side := range "AB" {
					bin(do, 1, aisle, bay, level, side, x, bayY(bay))
				}
			}
		}
	}
	for i, aisle := range "GH" {
		x := 3 + 4*float64(i)
		do(`INSERT INTO aisles VALUES (2, $1, $2)`, string(aisle), x)
		for bay := 1; bay <= 4; bay++ {
			for _, side := range "AB" {
				bin(do, 2, aisle, bay, 1, side, x, 1+1.6*float64(bay-1))
			}
		}
	}
	for i, aisle := range "K" {
		x := 3 + 4*float64(i)
		do(`INSERT INTO aisles VALUES (3, $1, $2)`, string(aisle), x)
		for bay := 1; bay <= 3; bay++ {
			for _, side := range "AB" {
				bin(do, 3, aisle, bay, 1, side, x, 1+1.6*float64(bay-1))
			}
		}
	}
	for _, p := range []struct {
		site       int
		kind, code string
		x, y       float64
	}{
		{1, "dock", "Dock 1", 6, backY}, {1, "dock", "Dock 2", 14, backY}, {1, "quarantine", "Quarantine", 22,
			backY}, {1, "damaged", "Damaged", 26, backY},
		{1, "bench", "Bench", 10, frontY}, {1, "trolley", "Trolleys", 12, frontY}, {1, "returns", "Returns corner", 4,
			frontY}, {1, "staging", "Gate", 22, frontY}, {1, "vehicle", "Vehicles", 26, frontY},
		{2, "dock", "Loft dock", 3, 8}, {2, "bench", "Loft bench", 5, 0}, {2, "trolley", "Loft trolleys", 6, 0}, {2,
			"staging", "Loft gate", 7, 0}, {2, "vehicle", "Loft vehicles", 9, 0}, {2, "quarantine", "Loft quarantine", 9, 8}, {2, "damaged", "Loft damaged", 11, 8},
		{3, "dock", "Yard dock", 3, 7}, {3, "bench", "Yard bench", 5, 0}, {3, "trolley", "Yard trolleys", 6, 0}, {3, "staging", "Yard gate", 7, 0},
		{3, "vehicle", "Yard vehicles", 8, 0}, {3, "quarantine", "Yard quarantine", 7, 7}, {3, "damaged", "Yard damaged", 9, 7},
	} {
		do(`
			INSERT INTO locations (site_id, kind, code, x, y)
			VALUES ($1, $2, $3, $4, $5)`, p.site, p.kind, p.code, p.x, p.y)
	}
}

// parties writes whom goods come from and go to.
func parties(do do) {
	for _, kind := range []struct {
		name    string
		parties []party
	}{{"supplier", suppliers}, {"customer", customers}} {
		for _, p := range kind.parties {
			do(`WITH location AS (INSERT INTO locations (kind, code) VALUES ($1, $3) RETURNING id)
				INSERT INTO parties (kind, code, name, address, contact, carrier, location_id)
				SELECT $1, $2, $3, $4, $5, $6, id FROM location`,
				kind.name, p.code, p.name, p.address, p.contact, p.carrier)
		}
	}
}

// items writes items with their packs and homes.
func items(do do, prefix string) {
	for i, g := range stocked() {
		do(`
			INSERT INTO items (sku, description, base_unit, whole, tracking, weight_kg, volume_l, handling, pace,
			  cost, life_out, life_in, short_pct, over_pct)
			VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $13)`,
			g.sku, g.text, g.unit, g.unit != "metre", g.tracking, g.kg, g.litres, g.handling, g.pace, g.cost, g.life, 3*g.life, allowance(g))
		do(`INSERT INTO packs (item_id, name, holds, gtin) VALUES ($1, $2, 1, $3)`, i+1, g.unit, gtin(prefix, 2*i+1))
		if g.holds > 1 {
			do(`
				INSERT INTO packs (item_id, name, holds, gtin)
				VALUES ($1, $2, $3, $4)`, i+1, g.pack+" of "+fmt.Sprint(g.holds), g.holds, gtin(prefix, 2*i+2))
		}
		do(`
			INSERT INTO item_sites (item_id, site_id, home_id, reorder_point, target)
			VALUES ($1, 1, (SELECT id FROM locations WHERE site_id = 1 AND code = $2), $3, $4)`,
			i+1, home(i, g), 2*g.holds, 8*g.holds)
	}
}

// rules writes what items, parties and sites ask for beyond the usual, and who carries.
func rules(do do) {
	// What customers pay: cost and two thirds, to the half.
	do(`UPDATE items SET sales_price = round(cost * 10 / 3) / 2`)
	do(`UPDATE items SET tax_pct = CASE WHEN handling = 'fluid' THEN 7 ELSE 19 END`)
	do(`UPDATE parties SET due_days = 30, terms = '30 days net' WHERE kind = 'customer'`)
	do(`UPDATE parties SET taxed = false WHERE kind = 'customer' AND code = 'HAR'`)
	do(`UPDATE parties SET discount_pct = 5 WHERE code IN ('TNT', 'HAR')`)
	do(`
		INSERT INTO agreed_prices SELECT c.id, i.id, current_date - 60, round(i.sales_price * 0.85, 2)
		  FROM parties c, items i WHERE c.code = 'HAR' AND i.sku IN ('HZ-500', 'CL-BLK')`)
	// How suppliers sell some of it, and to have of some that was never bought.
	do(`
		INSERT INTO supplier_items (supplier_id, item_id, code, pack_id, price, minimum, lead_days)
		SELECT p.id, i.id, upper(left(md5(p.code || i.sku), 6)),
		  (SELECT id FROM packs WHERE item_id = i.id ORDER BY holds DESC LIMIT 1), round(i.cost * (0.93 + 0.02 * (i.id % 4)), 2), CASE WHEN i.id % 3 = 0 THEN 24 ELSE 0 END, 4 + i.id % 9
		  FROM items i JOIN LATERAL (SELECT id, code FROM parties WHERE kind = 'supplier' ORDER BY (id + i.id) % 5, id
		  LIMIT 1) AS p ON true WHERE i.id % 2 = 0`)
	// What people stand under is looked at before it goes on the shelf.
	do(`UPDATE items SET inspect_pct = 5 WHERE sku LIKE 'SB-%' OR sku LIKE 'RS-%' OR sku LIKE 'WS-%'`)
	do(`UPDATE items SET shelf_life = 900 WHERE tracking = 'lot_expiry'`)
	// Stiff goods of one piece have sides: a box of their volume, longer than wide.
	do(`
		UPDATE packs SET sides_cm = ARRAY[round((v * 2)::numeric, 1), round(v::numeric, 1),
		  round((v / 2)::numeric, 1)]
		  FROM (SELECT id, cbrt(volume_l * 1000) AS v FROM items WHERE base_unit = 'each' AND volume_l >= 0.3) AS i
		 WHERE item_id = i.id AND holds = 1`)
	do(`
		UPDATE packs SET weight_kg = round(holds * (SELECT weight_kg FROM items WHERE id = item_id) * 1.03, 2),
		  sides_cm = '{40,30,25}' WHERE holds BETWEEN 2 AND 12
		  AND (SELECT volume_l FROM items WHERE id = item_id) * holds < 30`)
	// Batteries are judged by a sample of each arrival.
	do(`UPDATE items SET inspect_aql = 1 WHERE sku LIKE 'BT-%'`)
	do(`UPDATE items SET lot_rule = '{SUP}-{YY}{DDD}-{N3}' WHERE sku LIKE 'CL-%'`)
	do(`UPDATE items SET ask_out = true WHERE sku LIKE 'SB-%'`)
	do(`INSERT INTO item_sites (item_id, site_id, allowed) SELECT i.id, s.id, false FROM items i, sites s WHERE handling <> '' AND s.id IN (2, 3)`)
	// What the loft wants to have of its own.
	do(`
		INSERT INTO item_sites (item_id, site_id, reorder_point, target)
		SELECT id, 2, 3, 8 FROM items WHERE sku IN ('TP-B50', 'LN-036', 'DX-050')`)
	do(`
		UPDATE parties SET price_pct = 2, terms = '30 days net', carrier = 'Brook & Daughter Carriers'
		 WHERE kind = 'supplier'`)
	do(`
		UPDATE parties SET email = lower(code) || CASE kind WHEN 'supplier' THEN '.orders@example.org'
		  ELSE '.house@example.org' END`)
	do(`UPDATE sites SET approve_above = 4000 WHERE code = 'QH'`)
	do(`UPDATE zones SET picking = true WHERE code IN ('AB', 'C')`)
	do(`
		INSERT INTO carton_sizes (code, name, sides_cm, max_kg, tare_kg)
		VALUES ('S', 'small, single wall', '{35,25,20}', 12, 0.28),
		  ('M', 'medium, double wall', '{60,40,30}', 25, 0.75),
		('L', 'large, double wall', '{80,60,50}', 40, 1.6), ('T', 'long, for tubes', '{205,20,20}', 30, 1.9)`)
	do(`
		INSERT INTO carriers (name, collects, base, per_kg, max_kg)
		VALUES ('Northgate Vans', '{10:30,16:00}', 6.5, 0.35, 250),
		  ('Brook & Daughter Carriers', '{14:15}', 9, 0.22, 400)`)
}

// staff writes who works here.
func staff(do do) {
	hash, reservation := people.Hash(Password), people.Hash(PIN)
	for _, w := range workers {
		do(`
			INSERT INTO people (name, login, roles, password_hash, badge, pin_hash, site_id)
			VALUES ($1, $2, $3, $4, $5, $6, 1)`, w.name, w.login, w.roles.Texts(), hash, w.badge, reservation)
	}
}

// bin writes one bin. The lowest level carries most; the top takes one item only.
func bin(do func(string, ...any), site int, aisle rune, bay, level int, side rune, x, y float64) {
	zone := map[rune]string{'A': "AB", 'B': "AB", 'C': "C", 'D': "DE", 'E': "DE", 'F': "F"}[aisle]
	weight, volume := 220.0, 150.0
	var units any
	switch {
	case zone == "AB":
		weight, volume = 60, 60
	case zone == "F":
		weight = 600
	case zone == "C":
		units = 24
	}
	code := fmt.Sprintf("%c-%02d-%d-%c", aisle, bay, level, side)
	do(`
		INSERT INTO locations (site_id, zone_id, kind, code, aisle, bay, level, x, y, z, max_units, max_weight_kg,
		  max_volume_l, mix_items, mix_lots)
		VALUES ($1, (SELECT id FROM zones WHERE site_id = $1 AND code = $2), 'bin', $3, $4, $5, $6, $7, $8, $9, $10,
		  $11, $12, $13, $14)`,
		site, zone, code, string(aisle), bay, level, x, y, float64(level-1)*1.4, units, weight, volume, level < levels, zone != "C" || level == 1)
}

// allowance is by how many per cent an item's purchase lines may be off: what comes by
// the box or off the roll is never exact.
func allowance(g item) int {
	if g.unit == "metre" || g.holds >= 10 {
		return 5
	}
	return 0
}

// home gives each item a bin of its own in a fitting aisle.
func home(i int, g item) string {
	aisle := "DE"[i%2]
	switch {
	case g.handling == "long":
		return ""
	case g.handling == "fluid":
		aisle = 'C'
	case g.handling == "heavy":
		aisle = 'F'
	case g.litres < 1.2:
		aisle = "AB"[i%2]
	}
	return fmt.Sprintf("%c-%02d-%d-%c", aisle, i*5%bays+1, i/3%2+1, "AB"[i/2%2])
}

func gtin(prefix string, n int) string {
	body := fmt.Sprintf("0%s%0*d", prefix, 12-len(prefix), n)
	return body + string(gs1.CheckDigit(body))
}
