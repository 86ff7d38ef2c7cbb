package sheets

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

// cartonSizes are the kinds of cartons that goods are packed into.
var cartonSizes = Sheet{
	Name: "carton-sizes", Label: "Carton sizes", Key: "code",
	Columns: []Column{
		{Name: "code", Label: "Code", Kind: "text", Needed: true,
			Help: "What stands on the stack, such as M or 60-40."},
		{Name: "name", Label: "Name", Kind: "text", Needed: true, Help: "In words, such as medium, double wall."},
		{Name: "sides_cm", Label: "Inside, cm", Kind: "text", Needed: true,
			Help: "Length, width and height inside, parted by ×: 60 × 40 × 40"},
		{Name: "max_kg", Label: "Most weight, kg", Kind: "number", places: 2, open: true,
			Help: "What may lie in it; empty for any weight."},
		{Name: "tare_kg", Label: "Own weight, kg", Kind: "number", places: 3, Default: "0",
			Help: "What the carton itself weighs."},
	},
	query: `
		SELECT code, name,
		       array_to_string(ARRAY(SELECT trim_scale(s)::text FROM unnest(sides_cm) AS s), ' × ') AS sides_cm,
		       trim_scale(max_kg)::text AS max_kg, trim_scale(tare_kg)::text AS tare_kg FROM carton_sizes WHERE $1 > 0
		       ORDER BY code`,
	check: func(_ context.Context, _ *facts, _, row Row) error {
		_, err := sidesOf(row)
		return err
	},
	write: func(ctx context.Context, tx *command.Tx, _ int32, _, row Row) error {
		sides, err := sidesOf(row)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `
			INSERT INTO carton_sizes (code, name, sides_cm, max_kg, tare_kg)
			VALUES ($1, $2, $3::text[]::numeric[], $4, $5)
			ON CONFLICT (code) DO UPDATE SET name = $2, sides_cm = $3::text[]::numeric[], max_kg = $4, tare_kg = $5`,
			row["code"], row["name"], sides, row.number("max_kg"), row.number("tare_kg"))
		if err != nil {
			return fmt.Errorf("writing carton size %s: %w", row["code"], err)
		}
		return nil
	},
}

// sidesOf reads three lengths, and writes them back in one form.
func sidesOf(row Row) ([]string, error) {
	parts := strings.FieldsFunc(row["sides_cm"], func(r rune) bool { return strings.ContainsRune("×xX*;", r) })
	var out []string
	for _, p := range parts {
		d, err := decimal.NewFromString(strings.TrimSpace(p))
		if err != nil || !d.IsPositive() || d.GreaterThan(decimal.NewFromInt(1000)) {
			break
		}
		out = append(out, d.Round(1).String())
	}
	if len(parts) != 3 || len(out) != 3 {
		return nil, refusal.New(refusal.SidesMalformed, "sides_cm",
			"%q are not three sides. Write length, width and height in centimetres: 60 × 40 × 40", clip(row["sides_cm"]))
	}
	row["sides_cm"] = strings.Join(out, " × ")
	return out, nil
}

// carriers are those who carry goods to customers.
var carriers = Sheet{
	Name: "carriers", Label: "Carriers", Key: "name",
	Columns: []Column{
		{Name: "name", Label: "Name", Kind: "text", Needed: true, Help: "As it stands on orders and papers."},
		{Name: "collects", Label: "Collects at", Kind: "text",
			Help: "Times of day by the site's clock, parted by semicolons: 10:30; 16:00"},
		{Name: "base", Label: "Rate, a carton", Money: true, By: people.Accounts, Kind: "number", places: 2, Default: "0",
			Help: "What it asks for each carton."},
		{Name: "per_kg", Label: "Rate, a kilogram", Money: true, By: people.Accounts, Kind: "number", places: 2, Default: "0",
			Help: "What it asks for each kilogram besides."},
		{Name: "max_kg", Label: "Most weight, kg", Kind: "number", places: 2, open: true,
			Help: "What a carton may weigh at most; empty for any weight."},
	},
	query: `
		SELECT name, array_to_string(collects, '; ') AS collects, trim_scale(base)::text AS base,
		       trim_scale(per_kg)::text AS per_kg, trim_scale(max_kg)::text AS max_kg FROM carriers WHERE $1 > 0
		       ORDER BY name`,
	check: func(_ context.Context, _ *facts, _, row Row) error {
		_, err := timesOf(row)
		return err
	},
	write: func(ctx context.Context, tx *command.Tx, _ int32, _, row Row) error {
		times, err := timesOf(row)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `
			INSERT INTO carriers (name, collects, base, per_kg, max_kg) VALUES ($1, $2, $3, $4, $5)
			ON CONFLICT (name) DO UPDATE SET collects = $2, base = $3, per_kg = $4, max_kg = $5`,
			row["name"], times, row.number("base"), row.number("per_kg"), row.number("max_kg"))
		if err != nil {
			return fmt.Errorf("writing carrier %s: %w", row["name"], err)
		}
		return nil
	},
}

// timesOf reads times of day, and writes them back in order.
func timesOf(row Row) ([]string, error) {
	out := []string{}
	for part := range strings.SplitSeq(row["collects"], ";") {
		if part = strings.TrimSpace(part); part == "" {
			continue
		}
		t, err := time.Parse("15:04", part)
		if err != nil {
			return nil, refusal.New(refusal.TimeMalformed, "collects", "%q is not a time of day. Write it as 16:00.",
				clip(part))
		}
		out = append(out, t.Format("15:04"))
	}
	slices.Sort(out)
	row["collects"] = strings.Join(out, "; ")
	return out, nil
}
