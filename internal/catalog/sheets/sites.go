package sheets

import (
	"context"
	"fmt"
	"strings"
	"time"

	// Sites may be anywhere, whatever the machine knows of time zones.
	_ "time/tzdata"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

var sites = Sheet{
	Name: "sites", Label: "Sites", Key: "code",
	Columns: []Column{
		{Name: "code", Label: "Code", Kind: "text", Needed: true,
			Help: "A short code that tells one site from another and stays."},
		{Name: "name", Label: "Name", Kind: "text", Needed: true, Help: "As it stands on papers."},
		{Name: "timezone", Label: "Time zone", Kind: "text", Default: "UTC",
			Help: "The clock on its walls, such as Europe/London."},
		{Name: "cross_aisles", Label: "Cross aisles, metres", Kind: "text", Default: "0",
			Help: "How far down the floor one can walk from aisle to aisle, parted by semicolons: 0; 10; 20.5"},
		{Name: "insist_bins", Label: "Insists on bins", Kind: "flag", Default: "yes",
			Help: "Whether goods are picked from bins only. Where not, they may be picked from docks too."},
		{Name: "scan_bin", Label: "A round scans the bin", Kind: "flag", Default: "yes",
			Help: "Whether each stop asks for the bin's label."},
		{Name: "scan_item", Label: "A round scans the item", Kind: "flag", Default: "yes",
			Help: "Whether each stop asks for the item's label."},
		{Name: "scan_carton", Label: "A round scans the carton", Kind: "flag", Default: "yes",
			Help: "Whether each stop asks for the carton's label."},
		{Name: "each_unit", Label: "A round scans each unit", Kind: "flag", Default: "no",
			Help: "Whether each unit is scanned, or a quantity entered. It can be changed on a round."},
		{Name: "other_lot", Label: "Another lot may be taken", Kind: "flag", Default: "yes",
			Help: "Whether a round may take another lot than planned, if it lives long enough. It is recorded."},
		{Name: "bench_check", Label: "The bench looks through", Kind: "flag", Default: "no",
			Help: "Whether the bench scans what is in each carton before it is closed."},
		{Name: "straight", Label: "Sends straight from a round", Kind: "flag", Default: "no",
			Help: "Whether a picker may send cartons from the last take on, without the bench. A lead always may."},
		{Name: "variance_pct", Label: "Weight may be off, %", By: people.Lead, Kind: "number", places: 2, Default: "5",
			Help: "By how many per cent a carton may be off the weight expected."},
		{Name: "variance_kg", Label: "Weight may be off, kg", By: people.Lead, Kind: "number", places: 3, Default: "0.2",
			Help: "What it may be off in any case."},
		{Name: "pace_set_up", Label: "Set-up, seconds", Kind: "number", places: 2, Default: "90",
			Help: "What each round takes before and after it."},
		{Name: "pace_walk", Label: "Walking, metres a second", Kind: "number", places: 2, Default: "1.3",
			Help: "How quickly one walks here with a trolley."},
		{Name: "pace_stop", Label: "Each stop, seconds", Kind: "number", places: 2, Default: "6",
			Help: "For each bin that is stood at."},
		{Name: "pace_line", Label: "Each line, seconds", Kind: "number", places: 2, Default: "4",
			Help: "For each line taken there."},
		{Name: "pace_unit", Label: "Each unit, seconds", Kind: "number", places: 2, Default: "1.5",
			Help: "For each unit taken."},
		{Name: "pace_kilo", Label: "Each kilogram, seconds", Kind: "number", places: 2, Default: "0.2",
			Help: "For each kilogram taken."},
		{Name: "pace_pack", Label: "Packing a carton, seconds", Kind: "number", places: 2, Default: "120",
			Help: "What one carton takes at the bench."},
		{Name: "pace_load", Label: "Loading a carton, seconds", Kind: "number", places: 2, Default: "30",
			Help: "What one carton takes from the gate onto a vehicle."},
		{Name: "class_a_pct", Label: "A up to, %", Kind: "percent", places: 2, Default: "80",
			Help: "Up to which share of the value that moves in a year items are A, which are counted most often."},
		{Name: "class_b_pct", Label: "B up to, %", Kind: "percent", places: 2, Default: "95",
			Help: "Up to which share they are B; the others are C."},
		{Name: "counts_a", Label: "A counted a year", Kind: "count", Default: "12", Help: "How often a year each bin of an A item is counted."},
		{Name: "counts_b", Label: "B counted a year", Kind: "count", Default: "4", Help: "How often a year each bin of a B item is counted."},
		{Name: "counts_c", Label: "C counted a year", Kind: "count", Default: "1", Help: "How often a year each bin of a C item is counted."},
		{Name: "count_minutes", Label: "Counting a day, minutes", Kind: "count", Default: "45",
			Help: "How long there is to count each day: the list of the day is cut to it."},
		{Name: "still_days", Label: "Counted when still for, days", Kind: "count", Default: "180",
			Help: "After how many days without a move a bin is looked at."},
		{Name: "busy_moves", Label: "Counted after, moves", Kind: "count", Default: "60",
			Help: "After how many moves since it was counted a bin is counted because its contents changed often."},
		{Name: "allow_a_pct", Label: "A may differ, %", By: people.Lead, Kind: "percent", places: 3, Default: "0.2",
			Help: "By how many per cent a count of an A item may differ before another person counts again."},
		{Name: "allow_b_pct", Label: "B may differ, %", By: people.Lead, Kind: "percent", places: 3, Default: "1", Help: "The same of a B item."},
		{Name: "allow_c_pct", Label: "C may differ, %", By: people.Lead, Kind: "percent", places: 3, Default: "5", Help: "The same of a C item."},
		{Name: "allow_value", Label: "Any may differ, worth", Money: true, By: people.Lead, Kind: "number", places: 2, Default: "0",
			Help: "A difference that is worth no more than this passes too, whatever its share; 0 for none."},
		{Name: "nought_check", Label: "Looks into emptied bins", Kind: "flag", Default: "yes",
			Help: "Whether a round that should have emptied a bin asks for a look, and counts it so."},
		{Name: "approve_above", Label: "Approval above", Money: true, By: people.Lead, Kind: "number", places: 2, open: true,
			Help: "What a purchase order may come to before a lead has to approve it; empty for any amount."},
	},
	query: `
		SELECT code, name, timezone,
		       array_to_string(ARRAY(SELECT trim_scale(c)::text FROM unnest(cross_aisles) AS c ORDER BY c),
		       '; ') AS cross_aisles,
		       CASE WHEN insist_bins THEN 'yes' ELSE 'no' END AS insist_bins, CASE WHEN scan_bin THEN 'yes'
		       ELSE 'no' END AS scan_bin,
		       CASE WHEN scan_item THEN 'yes' ELSE 'no' END AS scan_item, CASE WHEN scan_carton THEN 'yes'
		       ELSE 'no' END AS scan_carton,
		       CASE WHEN each_unit THEN 'yes' ELSE 'no' END AS each_unit, CASE WHEN other_lot THEN 'yes'
		       ELSE 'no' END AS other_lot, CASE WHEN bench_check THEN 'yes' ELSE 'no' END AS bench_check,
		       CASE WHEN straight THEN 'yes' ELSE 'no' END AS straight,
		       trim_scale(variance_pct)::text AS variance_pct, trim_scale(variance_kg)::text AS variance_kg,
		       trim_scale(pace_set_up)::text AS pace_set_up, trim_scale(pace_walk)::text AS pace_walk,
		       trim_scale(pace_stop)::text AS pace_stop,
		       trim_scale(pace_line)::text AS pace_line, trim_scale(pace_unit)::text AS pace_unit,
		       trim_scale(pace_kilo)::text AS pace_kilo, trim_scale(pace_pack)::text AS pace_pack,
		       trim_scale(pace_load)::text AS pace_load,
		       trim_scale(class_a_pct)::text AS class_a_pct, trim_scale(class_b_pct)::text AS class_b_pct, counts_a::text AS counts_a,
		       counts_b::text AS counts_b, counts_c::text AS counts_c, count_minutes::text AS count_minutes, still_days::text AS still_days,
		       busy_moves::text AS busy_moves, trim_scale(allow_a_pct)::text AS allow_a_pct, trim_scale(allow_b_pct)::text AS allow_b_pct,
		       trim_scale(allow_c_pct)::text AS allow_c_pct, trim_scale(allow_value)::text AS allow_value,
		       CASE WHEN nought_check THEN 'yes' ELSE 'no' END AS nought_check,
		       trim_scale(approve_above)::text AS approve_above
		  FROM sites WHERE $1 > 0 ORDER BY code`,
	check: func(_ context.Context, _ *facts, _, row Row) error {
		if _, err := time.LoadLocation(row["timezone"]); err != nil {
			return refusal.New(refusal.TimezoneUnknown, "timezone",
				"%q is not a time zone. Write it as Europe/London, or UTC.", clip(row["timezone"]))
		}
		if a, b := row.number("class_a_pct"), row.number("class_b_pct"); a != nil && b != nil && a.GreaterThan(*b) {
			return refusal.New(refusal.TargetLow, "class_b_pct", "A goes up to %s %%, and B to %s %% only. B goes at least as far.", a, b)
		}
		if row["still_days"] == "0" {
			return refusal.New(refusal.NumberRange, "still_days", "After 0 days every bin would be still. Write at least 1.")
		}
		if row["busy_moves"] == "0" {
			return refusal.New(refusal.NumberRange, "busy_moves", "After 0 moves every bin would be counted. Write at least 1.")
		}
		_, err := crossAisles(row)
		return err
	},
	write: func(ctx context.Context, tx *command.Tx, _ int32, old, row Row) error {
		cross, err := crossAisles(row)
		if err != nil {
			return err
		}
		var id int32
		err = tx.GetContext(ctx, &id, `
			INSERT INTO sites (code, name, timezone, cross_aisles, insist_bins, scan_bin, scan_item, scan_carton,
			  approve_above, pace_set_up, pace_walk, pace_stop, pace_line, pace_unit, pace_kilo, each_unit, other_lot,
			  bench_check, variance_pct, variance_kg, straight, pace_pack, pace_load)
			VALUES ($1, $2, $3, $4::text[]::numeric[], $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17,
			  $18, $19, $20, $21, $22, $23)
			ON CONFLICT (code) DO UPDATE SET name = $2, timezone = $3, cross_aisles = $4::text[]::numeric[],
			insist_bins = $5, scan_bin = $6, scan_item = $7, scan_carton = $8, approve_above = $9,
			       pace_set_up = $10, pace_walk = $11, pace_stop = $12, pace_line = $13, pace_unit = $14,
			       pace_kilo = $15, each_unit = $16, other_lot = $17, bench_check = $18, variance_pct = $19,
			       variance_kg = $20, straight = $21, pace_pack = $22, pace_load = $23 RETURNING id`,
			row["code"], row["name"], row["timezone"], cross, row.flag("insist_bins"), row.flag("scan_bin"), row.flag("scan_item"), row.flag("scan_carton"), row.number("approve_above"),
			row.number("pace_set_up"), row.number("pace_walk"), row.number("pace_stop"), row.number("pace_line"), row.number("pace_unit"), row.number("pace_kilo"),
			row.flag("each_unit"), row.flag("other_lot"), row.flag("bench_check"), row.number("variance_pct"), row.number("variance_kg"), row.flag("straight"),
			row.number("pace_pack"), row.number("pace_load"))
		if err != nil {
			return fmt.Errorf("writing site %s: %w", row["code"], err)
		}
		if err := tx.At(ctx, id); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `
			UPDATE sites SET class_a_pct = $2, class_b_pct = $3, counts_a = $4, counts_b = $5, counts_c = $6, count_minutes = $7,
			       still_days = $8, busy_moves = $9, allow_a_pct = $10, allow_b_pct = $11, allow_c_pct = $12, allow_value = $13,
			       nought_check = $14 WHERE id = $1`, id, row.number("class_a_pct"), row.number("class_b_pct"), row.count("counts_a"),
			row.count("counts_b"), row.count("counts_c"), row.count("count_minutes"), row.count("still_days"),
			row.count("busy_moves"), row.number("allow_a_pct"), row.number("allow_b_pct"), row.number("allow_c_pct"),
			row.number("allow_value"), row.flag("nought_check")); err != nil {
			return fmt.Errorf("writing how site %s counts: %w", row["code"], err)
		}
		if old != nil {
			return nil
		}
		// What every site works with; their positions are set on the sheet of locations.
		_, err = tx.ExecContext(ctx, `
			INSERT INTO locations (site_id, kind, code) VALUES ($1, 'dock', 'Dock 1'),
			  ($1, 'quarantine', 'Quarantine'), ($1, 'damaged', 'Damaged'),
			($1, 'bench', 'Bench'), ($1, 'trolley', 'Trolleys'), ($1, 'returns', 'Returns corner'),
			($1, 'staging', 'Gate'), ($1, 'vehicle', 'Vehicles')`, id)
		if err != nil {
			return fmt.Errorf("furnishing site %s: %w", row["code"], err)
		}
		// Lost and found is one for all sites: what counts find missing goes there.
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO locations (kind, code) SELECT 'lost', 'Lost and found'
			 WHERE NOT EXISTS (SELECT FROM locations WHERE kind = 'lost')`); err != nil {
			return fmt.Errorf("furnishing site %s: %w", row["code"], err)
		}
		return nil
	},
}

// crossAisles reads where the cross aisles are, and writes them back in one form.
func crossAisles(row Row) ([]string, error) {
	var out []string
	before := decimal.Zero
	for i, text := range strings.Split(row["cross_aisles"], ";") {
		d, err := decimal.NewFromString(strings.TrimSpace(text))
		if err != nil || d.Abs().GreaterThan(decimal.NewFromInt(10_000)) || !d.Equal(d.Truncate(2)) || i > 0 &&
			d.LessThanOrEqual(before) {
			return nil, refusal.New(refusal.CrossAislesMalformed, "cross_aisles",
				"%q are not cross aisles. Write metres that go up, parted by semicolons: 0; 10; 20.5", clip(row["cross_aisles"]))
		}
		before = d
		out = append(out, d.String())
	}
	row["cross_aisles"] = strings.Join(out, "; ")
	return out, nil
}

var zones = Sheet{
	Name: "zones", Label: "Zones", Key: "code",
	Columns: []Column{
		{Name: "code", Label: "Code", Kind: "text", Needed: true,
			Help: "A short code that bins name their zone by; it stays."},
		{Name: "name", Label: "Name", Kind: "text", Needed: true, Help: "What lies there, in words."},
		{Name: "accepts", Label: "Handling accepted", Kind: "text",
			Help: "The handling classes taken besides ordinary goods, parted by semicolons: fluid; heavy"},
		{Name: "picking", Label: "Picked from first", Kind: "flag", Default: "no",
			Help: "Whether stock here is offered before that of other zones."},
	},
	query: `
		SELECT code, name, array_to_string(accepts, '; ') AS accepts, CASE WHEN picking THEN 'yes'
		       ELSE 'no' END AS picking FROM zones WHERE site_id = $1 ORDER BY code`,
	check: func(_ context.Context, f *facts, _, row Row) error {
		row["accepts"] = strings.Join(classes(row["accepts"]), "; ")
		f.zones[row["code"]] = true
		return nil
	},
	write: func(ctx context.Context, tx *command.Tx, site int32, _, row Row) error {
		_, err := tx.ExecContext(ctx, `
			INSERT INTO zones (site_id, code, name, accepts, picking) VALUES ($1, $2, $3, $4, $5)
			ON CONFLICT (site_id, code) DO UPDATE SET name = $3, accepts = $4, picking = $5`,
			site, row["code"], row["name"], classes(row["accepts"]), row.flag("picking"))
		if err != nil {
			return fmt.Errorf("writing zone %s: %w", row["code"], err)
		}
		return nil
	},
}

// classes reads handling classes, each once.
func classes(text string) []string {
	out := []string{}
	seen := map[string]bool{}
	for part := range strings.SplitSeq(text, ";") {
		if part = strings.TrimSpace(part); part != "" && !seen[part] {
			seen[part] = true
			out = append(out, part)
		}
	}
	return out
}

// locationKinds are the locations of a site that are not shelves.
var locationKinds = []string{"dock", "bench", "staging", "trolley", "returns", "damaged", "quarantine", "vehicle"}

var locations = Sheet{
	Name: "locations", Label: "Locations", Key: "code",
	Columns: []Column{
		{Name: "code", Label: "Code", Kind: "text", Needed: true, Help: "What stands on its sign, such as Dock 1."},
		{Name: "kind", Label: "What it is", Kind: "choice", Needed: true, Choices: locationKinds,
			Help: "What happens there: goods come in at docks, are packed at benches, and leave from staging."},
		{Name: "x", Label: "x, metres", Kind: "number", places: 2, signed: true,
			Help: "Where it lies, across the floor."},
		{Name: "y", Label: "y, metres", Kind: "number", places: 2, signed: true,
			Help: "How far down the floor it lies."},
	},
	query: `
		SELECT code, kind, trim_scale(x)::text AS x, trim_scale(y)::text AS y FROM locations WHERE site_id = $1
		   AND kind <> 'bin' ORDER BY code`,
	check: func(ctx context.Context, f *facts, old, row Row) error {
		code := strings.ToUpper(row["code"])
		if _, taken := f.holds[code]; taken {
			return refusal.New(refusal.CodeTaken, "code",
				"%s is a bin of this site already. Give the location another code.", row["code"])
		}
		if old == nil || old["kind"] == row["kind"] {
			return nil
		}
		n, err := f.stands(ctx, old["code"])
		if err != nil {
			return err
		}
		if n > 0 {
			return refusal.New(refusal.LocationInUse, "kind",
				"Goods stand at %s. It stays a %s until they are moved away.", old["code"], old["kind"])
		}
		return nil
	},
	write: func(ctx context.Context, tx *command.Tx, site int32, _, row Row) error {
		_, err := tx.ExecContext(ctx, `
			INSERT INTO locations (site_id, kind, code, x, y) VALUES ($1, $2, $3, $4, $5)
			ON CONFLICT (site_id, code) DO UPDATE SET kind = $2, x = $4, y = $5`,
			site, row["kind"], row["code"], row.number("x"), row.number("y"))
		if err != nil {
			return fmt.Errorf("writing location %s: %w", row["code"], err)
		}
		return nil
	},
}
