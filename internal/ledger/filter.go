package ledger

import (
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/database"
)

// A Filter narrows history. What is empty narrows nothing.
type Filter struct {
	Person   string `query:"person" maxLength:"80" doc:"Letters of the name of who entered it, or the name they sign on with"`
	From     string `query:"from" maxLength:"16" doc:"From this day or minute on, by the site's clock: 2027-12-31 or 2027-12-31T14:00"`
	To       string `query:"to" maxLength:"16" doc:"Up to the end of this day or minute"`
	Kind     string `query:"kind" enum:",receive,reverse_receipt,inspect,release,put_away_load,put_away,put_away_return,move,refill_load,refill,refill_return,pick,stage,pack,unpack,restock,load,unload,ship,reverse_shipment,count,decide_return,dispose,settle_difference,hold" doc:"The kind of posting"`
	Document string `query:"document" maxLength:"40" doc:"How the document's number begins"`
	SKU      string `query:"item" maxLength:"80" doc:"How the SKU begins, or words of the description"`
	Tracked  string `query:"lot" maxLength:"80" doc:"How the lot or serial begins"`
	Bin      string `query:"bin" maxLength:"40" doc:"How the location begins, at either end"`
	Note     string `query:"note" maxLength:"80" doc:"Words of the note"`
}

// moments are how a moment may be written, and how long each lasts.
var moments = []struct {
	layout string
	lasts  time.Duration
}{{"2006-01-02T15:04", time.Minute}, {time.DateOnly, 24 * time.Hour}}

// moment reads a day or a minute; after is true for what follows it.
func moment(field, text string, after bool) (string, error) {
	for _, m := range moments {
		at, err := time.Parse(m.layout, text)
		if err != nil {
			continue
		}
		if after {
			at = at.Add(m.lasts)
		}
		return at.Format("2006-01-02 15:04"), nil
	}
	return "", refusal.New(refusal.DateMalformed, field, "%q is no day and no minute. Write it as 2027-12-31 or 2027-12-31T14:00.", text)
}

// where is the condition that the moves of a site keep, as SQL over moves; its parameters
// are added to args.
func (f Filter) where(site int32, args []any) (string, []any, error) {
	var move, posting []string
	add := func(to *[]string, condition, value string) {
		if value != "" {
			args = append(args, value)
			*to = append(*to, strings.ReplaceAll(condition, "?", fmt.Sprintf("$%d", len(args))))
		}
	}
	clock := fmt.Sprintf(`(SELECT timezone FROM sites WHERE id = %d)`, site)
	for _, end := range []struct {
		field, text, condition string
	}{
		{"from", f.From, "po.entered_at >= ?::timestamp AT TIME ZONE " + clock},
		{"to", f.To, "po.entered_at < ?::timestamp AT TIME ZONE " + clock},
	} {
		if end.text == "" {
			continue
		}
		at, err := moment(end.field, end.text, end.field == "to")
		if err != nil {
			return "", nil, err
		}
		add(&posting, end.condition, at)
	}
	add(&posting, `po.person_id IN (SELECT id FROM people WHERE name ILIKE '%' || ? || '%' OR login = ?)`, database.LikeLiteral(f.Person))
	add(&posting, `po.kind = ?`, f.Kind)
	add(&posting, `po.document LIKE upper(?) || '%'`, database.LikeLiteral(f.Document))
	add(&posting, `po.note ILIKE '%' || ? || '%'`, database.LikeLiteral(f.Note))
	add(&move, `moves.item_id IN (SELECT id FROM items WHERE sku ILIKE ? || '%' OR description ILIKE '%' || ? || '%')`, database.LikeLiteral(f.SKU))
	add(&move, `(moves.lot_id IN (SELECT id FROM lots WHERE code ILIKE ? || '%')
	     OR moves.serial_id IN (SELECT id FROM serials WHERE code ILIKE ? || '%'))`, database.LikeLiteral(f.Tracked))
	add(&move, `EXISTS (SELECT FROM locations WHERE id IN (moves.from_location, moves.to_location)
	     AND code ILIKE ? || '%')`, database.LikeLiteral(f.Bin))
	if len(posting) > 0 {
		move = append(move, `EXISTS (SELECT FROM postings po WHERE po.id = moves.posting_id AND `+strings.Join(posting, " AND ")+`)`)
	}
	if len(move) == 0 {
		return "true", args, nil
	}
	return strings.Join(move, " AND "), args, nil
}
