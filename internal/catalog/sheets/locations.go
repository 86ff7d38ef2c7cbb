package sheets

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/command"
)

var bins = Sheet{
	Name: "bins", Label: "Bins", Key: "code",
	Columns: []Column{
		{Name: "code", Label: "Code", Kind: "text", Needed: true,
			Help: "What stands on its label and can be read aloud: aisle, bay, level, side, such as C-04-2-B."},
		{Name: "zone", Label: "Zone", Kind: "text",
			Help: "The zone it belongs to; zones say which handling classes are accepted."},
		{Name: "aisle", Label: "Aisle", Kind: "text", Help: "The aisle that one walks to reach it."},
		{Name: "bay", Label: "Bay", Kind: "count", Help: "How many bays down the aisle."},
		{Name: "level", Label: "Level", Kind: "count", Help: "1 is the lowest."},
		{Name: "x", Label: "x, metres", Kind: "number", places: 2, signed: true,
			Help: "Where the aisle lies, across the floor."},
		{Name: "y", Label: "y, metres", Kind: "number", places: 2, signed: true,
			Help: "How far down the floor one stands to reach it."},
		{Name: "z", Label: "z, metres", Kind: "number", places: 2, signed: true, Help: "How high it is."},
		{Name: "max_units", Label: "Most units", Kind: "number", places: 3, open: true,
			Help: "How many units it takes; empty for no limit."},
		{Name: "max_weight_kg", Label: "Most weight, kg", Kind: "number", places: 3, open: true,
			Help: "What it bears; empty for no limit."},
		{Name: "max_volume_l", Label: "Most volume, litres", Kind: "number", places: 3, open: true,
			Help: "What goes in; empty for no limit."},
		{Name: "mix_items", Label: "Items may mix", Kind: "flag", Default: "yes",
			Help: "Whether several items may lie in it."},
		{Name: "mix_lots", Label: "Lots may mix", Kind: "flag", Default: "yes",
			Help: "Whether several lots of an item may lie in it."},
	},
	query: `
		SELECT p.code, z.code AS zone, p.aisle, p.bay::text AS bay, p.level::text AS level,
		       trim_scale(p.x)::text AS x, trim_scale(p.y)::text AS y, trim_scale(p.z)::text AS z,
		       trim_scale(p.max_units)::text AS max_units, trim_scale(p.max_weight_kg)::text AS max_weight_kg,
		       trim_scale(p.max_volume_l)::text AS max_volume_l,
		       CASE WHEN p.mix_items THEN 'yes' ELSE 'no' END AS mix_items, CASE WHEN p.mix_lots THEN 'yes'
		       ELSE 'no' END AS mix_lots
		  FROM locations p LEFT JOIN zones z ON z.id = p.zone_id WHERE p.site_id = $1 AND p.kind = 'bin'
		 ORDER BY p.code`,
	check: func(_ context.Context, f *facts, _, row Row) error {
		code := strings.ToUpper(row["code"])
		if kind, taken := f.taken[code]; taken {
			return refusal.New(refusal.CodeTaken, "code",
				"%s is a %s of this site already. Give the bin another code.", row["code"], kind)
		}
		if row["zone"] != "" && !f.zones[row["zone"]] {
			return refusal.New(refusal.ZoneUnknown, "zone", "There is no zone %s at this site.", row["zone"])
		}
		if limit, holds := row.number("max_units"), f.holds[code]; limit != nil && limit.LessThan(holds) {
			return refusal.New(refusal.LimitLow, "max_units",
				"%s holds %s, more than the %s it would take. Move some away first.", row["code"], holds, limit)
		}
		return nil
	},
	write: func(ctx context.Context, tx *command.Tx, site int32, _, row Row) error {
		_, err := tx.ExecContext(ctx, `
			INSERT INTO locations (site_id, kind, code, zone_id, aisle, bay, level, x, y, z, max_units, max_weight_kg,
			  max_volume_l, mix_items, mix_lots)
			VALUES ($1, 'bin', $2, (SELECT id FROM zones WHERE site_id = $1 AND code = $3), $4, $5, $6, $7, $8, $9,
			  $10, $11, $12, $13, $14)
			ON CONFLICT (site_id, code) DO UPDATE SET zone_id = excluded.zone_id, aisle = $4, bay = $5, level = $6,
			x = $7, y = $8, z = $9,
			       max_units = $10, max_weight_kg = $11, max_volume_l = $12, mix_items = $13, mix_lots = $14`,
			site, row["code"], row["zone"], row.text("aisle"), row.count("bay"), row.count("level"), row.number("x"), row.number("y"), row.number("z"),
			row.number("max_units"), row.number("max_weight_kg"), row.number("max_volume_l"), row.flag("mix_items"), row.flag("mix_lots"))
		if err != nil {
			return fmt.Errorf("writing bin %s: %w", row["code"], err)
		}
		// A new aisle lies where its first bin does.
		if row["aisle"] != "" {
			if _, err := tx.ExecContext(ctx, `
				INSERT INTO aisles (site_id, code, x)
				VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`, site, row["aisle"], row.number("x")); err != nil {
				return fmt.Errorf("writing aisle %s: %w", row["aisle"], err)
			}
		}
		return nil
	},
}

// A Range describes many bins at once: aisles, bays, levels and sides, each as 1-6,
// A-F or 1,3,5.
type Range struct {
	Aisles string `json:"aisles" maxLength:"60"`
	Bays   string `json:"bays" maxLength:"60"`
	Levels string `json:"levels" maxLength:"60"`
	Sides  string `json:"sides,omitempty" maxLength:"60"`
	Zone   string `json:"zone,omitempty" maxLength:"20"`
	// FirstX and AisleGap location the aisles, FirstY and BayGap the bays, LevelHeight
	// the levels, in metres.
	FirstX      float64 `json:"first_x"`
	AisleGap    float64 `json:"aisle_gap"`
	FirstY      float64 `json:"first_y"`
	BayGap      float64 `json:"bay_gap"`
	LevelHeight float64 `json:"level_height"`
	MaxUnits    string  `json:"max_units,omitempty" maxLength:"20"`
	MaxWeightKg string  `json:"max_weight_kg,omitempty" maxLength:"20"`
	MaxVolumeL  string  `json:"max_volume_l,omitempty" maxLength:"20"`
}

// mostBins is how many bins one range may make.
const mostBins = 5000

// Table writes the range out, one row a bin.
func (r Range) Table() (exchange.Table, error) {
	t := exchange.Table{Header: []string{"code", "zone", "aisle", "bay", "level", "x", "y", "z", "max_units",
		"max_weight_kg", "max_volume_l"}}
	aisles, err1 := span("aisles", r.Aisles)
	bays, err2 := span("bays", r.Bays)
	levels, err3 := span("levels", r.Levels)
	sides, err4 := []string{""}, error(nil)
	if strings.TrimSpace(r.Sides) != "" {
		sides, err4 = span("sides", r.Sides)
	}
	for _, err := range []error{err1, err2, err3, err4} {
		if err != nil {
			return t, err
		}
	}
	if n := len(aisles) * len(bays) * len(levels) * len(sides); n > mostBins {
		return t, refusal.New(refusal.RangeLong, "aisles", "These would be %d bins, and at most %d are made at once.",
			n, mostBins)
	}
	metres := func(v float64) string { return strconv.FormatFloat(v, 'f', 2, 64) }
	for a, aisle := range aisles {
		for b, bay := range bays {
			for l, level := range levels {
				for _, side := range sides {
					code := aisle + "-" + padded(bay) + "-" + level
					if side != "" {
						code += "-" + side
					}
					t.Rows = append(t.Rows, []string{code, r.Zone, aisle, bay, level,
						metres(r.FirstX + float64(a)*r.AisleGap),
						metres(r.FirstY +
							float64(b)*r.BayGap), metres(float64(l) * r.LevelHeight), r.MaxUnits, r.MaxWeightKg, r.MaxVolumeL})
				}
			}
		}
	}
	return t, nil
}

func padded(bay string) string {
	if len(bay) == 1 && bay[0] >= '0' && bay[0] <= '9' {
		return "0" + bay
	}
	return bay
}

// span reads 1-6, A-F or 1,3,5.
func span(field, text string) (out []string, err error) {
	malformed := refusal.New(refusal.RangeMalformed, field, "%q is not a range. Write 1-6, A-F, or 1,3,5.", clip(text))
	for part := range strings.SplitSeq(text, ",") {
		from, to, two := strings.Cut(strings.TrimSpace(part), "-")
		from, to = strings.ToUpper(strings.TrimSpace(from)), strings.ToUpper(strings.TrimSpace(to))
		first, err1 := strconv.Atoi(from)
		last, err2 := strconv.Atoi(to)
		switch {
		case from == "" || two && to == "" || len(from) > 4:
			return nil, malformed
		case !two:
			out = append(out, from)
		case err1 == nil && err2 == nil && 0 <= first && first <= last && last-first < 1000:
			for n := first; n <= last; n++ {
				out = append(out, strconv.Itoa(n))
			}
		case len(from) == 1 && len(to) == 1 && 'A' <= from[0] && from[0] <= to[0] && to[0] <= 'Z':
			for c := from[0]; c <= to[0]; c++ {
				out = append(out, string(c))
			}
		default:
			return nil, malformed
		}
	}
	return out, nil
}
