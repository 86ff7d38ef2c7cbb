package sheets

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/core/gs1"
	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// keepSizes refuses another size of a pack that was used: what was ordered and counted in it
// would be another quantity after.
func keepSizes(ctx context.Context, f *facts, old, row Row) error {
	if old == nil {
		return nil
	}
	before := sizesOf(old["packs"])
	for name, now := range sizesOf(row["packs"]) {
		was, there := before[name]
		if !there || was == now {
			continue
		}
		moves, err := f.moves(ctx, old["sku"])
		if err != nil {
			return err
		}
		lines, err := f.linesIn(ctx, old["sku"], name)
		if err != nil {
			return err
		}
		if moves > 0 || lines > 0 {
			return refusal.New(refusal.PackUsed, "packs",
				"A %s of %s holds %s, and that stays: %d order lines count in it, and the item has made %d moves. Add "+
					"another pack under a name of its own.", name, old["sku"], was, lines, moves).With("moves", moves)
		}
	}
	return nil
}

// sizesOf are how many base units each pack holds, by its name, as text.
func sizesOf(packs string) map[string]string {
	out := map[string]string{}
	for text := range strings.SplitSeq(packs, ";") {
		parts := strings.Split(text, "=")
		if len(parts) < 2 {
			continue
		}
		size, err := decimal.NewFromString(strings.TrimSpace(parts[1]))
		if err == nil {
			out[strings.TrimSpace(parts[0])] = size.String()
		}
	}
	return out
}

type pack struct {
	name   string
	holds  decimal.Decimal
	gtin   string
	weight *decimal.Decimal
	sides  []decimal.Decimal
}

// words are the pack in the one form in which it is kept and compared.
func (p pack) words() string {
	parts := []string{p.name, p.holds.String(), p.gtin, "", ""}
	if p.weight != nil {
		parts[3] = p.weight.String() + " kg"
	}
	if len(p.sides) > 0 {
		parts[4] = fmt.Sprintf("%sx%sx%s cm", p.sides[0], p.sides[1], p.sides[2])
	}
	return strings.TrimRight(strings.Join(parts, "="), "=")
}

// measure reads what a pack weighs and how long its sides are, the longest first.
func (p *pack) measure(weight, sides string) error {
	size := func(text string, places int32) (decimal.Decimal, bool) {
		d, err := decimal.NewFromString(strings.TrimSpace(text))
		return d, err == nil && d.IsPositive() && d.LessThan(decimal.NewFromInt(100_000)) && d.Equal(d.Truncate(places))
	}
	if weight = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(weight), "kg")); weight != "" {
		kg, fine := size(weight, 4)
		if !fine {
			return refusal.New(refusal.PackMalformed, "packs",
				"A %s cannot weigh %q. Write kilograms, such as 5.6 kg.", p.name, clip(weight))
		}
		p.weight = &kg
	}
	if sides = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(sides), "cm")); sides == "" {
		return nil
	}
	for text := range strings.SplitSeq(strings.ToLower(sides), "x") {
		cm, fine := size(text, 1)
		if !fine {
			return refusal.New(refusal.PackMalformed, "packs",
				"A %s cannot measure %q. Write its three sides in centimetres, such as 30x20x15 cm.", p.name, clip(sides))
		}
		p.sides = append(p.sides, cm)
	}
	if len(p.sides) != 3 {
		return refusal.New(refusal.PackMalformed, "packs",
			"A %s has three sides, and %q gives %d. Write them in centimetres, such as 30x20x15 cm.", p.name, clip(sides), len(p.sides))
	}
	slices.SortFunc(p.sides, func(a, b decimal.Decimal) int { return b.Cmp(a) })
	return nil
}

// sidesText are the sides as the database takes them, nil when they are unknown.
func (p pack) sidesText() []string {
	var out []string
	for _, s := range p.sides {
		out = append(out, s.String())
	}
	return out
}

// mergePacks are the packs that an item has once what is written has been carried out: those
// that are not named stay, and one whose name stands behind a minus goes.
func mergePacks(old, now string) (string, error) {
	name := func(text string) string { n, _, _ := strings.Cut(text, "="); return strings.TrimSpace(n) }
	var entries []string
	for text := range strings.SplitSeq(old, ";") {
		if text = strings.TrimSpace(text); text != "" {
			entries = append(entries, text)
		}
	}
	kept := len(entries)
	for text := range strings.SplitSeq(now, ";") {
		text = strings.TrimSpace(text)
		if text == "" {
			continue
		}
		gone, removes := strings.CutPrefix(text, "-")
		at := slices.IndexFunc(entries[:kept], func(e string) bool { return name(e) == name(gone) })
		switch {
		case removes && at < 0:
			return "", refusal.New(refusal.PackUnknown, "packs", "There is no pack %s to remove.", clip(name(gone)))
		case removes:
			entries, kept = slices.Delete(entries, at, at+1), kept-1
		case at >= 0:
			entries[at] = text
		default:
			entries = append(entries, text)
		}
	}
	return strings.Join(entries, "; "), nil
}

// readPacks reads the packs of a row, and refuses what another item has already.
func readPacks(f *facts, row Row) ([]pack, error) {
	var packs []pack
	seen := map[string]bool{}
	for text := range strings.SplitSeq(row["packs"], ";") {
		if strings.TrimSpace(text) == "" {
			continue
		}
		parts := strings.Split(text, "=")
		for i := range parts {
			parts[i] = strings.TrimSpace(parts[i])
		}
		if len(parts) < 2 || len(parts) > 5 || parts[0] == "" {
			return nil, refusal.New(refusal.PackMalformed, "packs",
				"%q is not a pack. Write name=how many=GTIN, such as box of 12=12=09521234000020.", clip(strings.TrimSpace(text)))
		}
		p := pack{name: parts[0]}
		var err error
		if p.holds, err = decimal.NewFromString(parts[1]); err != nil || !p.holds.IsPositive() ||
			p.holds.GreaterThan(most) || !p.holds.Equal(p.holds.Truncate(3)) || row.flag("whole") &&
			!p.holds.IsInteger() {
			return nil, refusal.New(refusal.PackMalformed, "packs",
				"A %s cannot hold %s. It holds a number of base units (%s) above 0.", p.name, clip(parts[1]), row["base_unit"])
		}
		if seen[p.name] {
			return nil, refusal.New(refusal.PackTwice, "packs", "The pack %s stands twice.", p.name)
		}
		seen[p.name] = true
		parts = append(parts, "", "", "")
		if err := p.measure(parts[3], parts[4]); err != nil {
			return nil, err
		}
		if parts[2] != "" {
			if p.gtin, err = gs1.GTIN("packs", parts[2]); err != nil {
				return nil, err
			}
			if owner, taken := f.gtins[p.gtin]; seen[p.gtin] || taken && owner != row["sku"] {
				return nil, refusal.New(refusal.GTINTaken, "packs",
					"GTIN %s is that of %s already. Each pack has its own.", p.gtin, f.gtins[p.gtin])
			}
			seen[p.gtin] = true
		}
		packs = append(packs, p)
	}
	return packs, nil
}
