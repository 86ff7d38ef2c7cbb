package sheets

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/exchange"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// A Sheet is one kind of things of the catalog.
type Sheet struct {
	Name    string   `json:"name"`
	Label   string   `json:"label"`
	Columns []Column `json:"columns"`
	// Key names the column that tells one row from another.
	Key string `json:"key"`

	// query reads all rows of a site ($1), each column as text.
	query string
	// check applies the rules that need the house's facts; old is nil for a new row.
	check func(ctx context.Context, f *facts, old, row Row) error
	write func(ctx context.Context, tx *command.Tx, site int32, old, row Row) error
}

// Sheets are all there are, by name.
var Sheets = map[string]Sheet{"items": items, "bins": bins, "zones": zones, "locations": locations, "sites": sites,
	"carton-sizes": cartonSizes, "carriers": carriers, "relays": relays, "picking-bins": pickingBins, "return-kinds": returnKinds, "return-reasons": returnReasons, "prices": prices, "supplier-items": offers,
	"suppliers": parties("supplier", "Suppliers"), "customers": parties("customer", "Customers")}

// Order is the order in which sheets are shown.
var Order = []string{"items", "suppliers", "supplier-items", "customers", "prices", "bins", "zones", "locations", "sites",
	"carton-sizes", "carriers", "picking-bins", "relays", "return-kinds", "return-reasons"}

// A Judged is what an import will do with one row.
type Judged struct {
	// Row is its number in the file; the header is row 1.
	Row int    `json:"row"`
	Key string `json:"key"`
	// Does is new, change, same or wrong.
	Does string `json:"does" enum:"new,change,same,wrong"`
	// Changes word each field that becomes something else.
	Changes []ledger.Change `json:"changes"`
	// Field and Sentence say what is wrong.
	Field    string `json:"field,omitempty"`
	Sentence string `json:"sentence,omitempty"`
	// Stands says that it is wrong since it is there already and was to be added.
	Stands bool `json:"stands,omitempty"`

	old, row Row
}

// A Preview is what an import will do, row by row.
type Preview struct {
	New     int      `json:"new"`
	Changed int      `json:"changed"`
	Same    int      `json:"same"`
	Wrong   int      `json:"wrong"`
	Rows    []Judged `json:"rows"`
	Button  string   `json:"button"`
}

// column finds a column by its name or its label.
func (s Sheet) column(name string) (Column, bool) {
	i := slices.IndexFunc(s.Columns, func(c Column) bool {
		return strings.EqualFold(c.Name, name) || strings.EqualFold(c.Label, name)
	})
	if i < 0 {
		return Column{}, false
	}
	return s.Columns[i], true
}

// read reads the sheet's rows of a site, by key in capitals, and the keys in order.
func (s Sheet) read(ctx context.Context, q sqlx.QueryerContext, site int32) (map[string]Row, []string, error) {
	rows, err := q.QueryxContext(ctx, s.query, site)
	if err != nil {
		return nil, nil, fmt.Errorf("reading %s: %w", s.Name, err)
	}
	defer rows.Close()
	out, order := map[string]Row{}, []string{}
	for rows.Next() {
		raw := map[string]any{}
		if err := rows.MapScan(raw); err != nil {
			return nil, nil, fmt.Errorf("reading %s: %w", s.Name, err)
		}
		row := Row{}
		for _, c := range s.Columns {
			if text, ok := raw[c.Name].(string); ok {
				row[c.Name] = text
			} else {
				row[c.Name] = ""
			}
		}
		key := strings.ToUpper(row[s.Key])
		out[key] = row
		order = append(order, key)
	}
	return out, order, rows.Err()
}

// Export is the whole sheet of a site as a table.
func (s Sheet) Export(ctx context.Context, q sqlx.QueryerContext, site int32) (exchange.Table, error) {
	rows, order, err := s.read(ctx, q, site)
	if err != nil {
		return exchange.Table{}, err
	}
	var t exchange.Table
	for _, c := range s.Columns {
		t.Header = append(t.Header, c.Name)
	}
	for _, key := range order {
		var line []string
		for _, c := range s.Columns {
			line = append(line, rows[key][c.Name])
		}
		t.Rows = append(t.Rows, line)
	}
	return t, nil
}

// columnsOf are the columns that a table's header names: each once, and the key among them.
func (s Sheet) columnsOf(header []string) ([]Column, error) {
	columns := make([]Column, len(header))
	seen := map[string]bool{}
	for i, name := range header {
		c, known := s.column(name)
		switch {
		case !known:
			return nil, refusal.New(refusal.ColumnUnknown, "data",
				"There is no column %q on the sheet of %s. Its columns are %s.", clip(name), s.Name, s.names())
		case seen[c.Name]:
			return nil, refusal.New(refusal.ColumnTwice, "data", "The column %s stands twice in the file.", c.Name)
		}
		seen[c.Name] = true
		columns[i] = c
	}
	if !seen[s.Key] {
		return nil, refusal.New(refusal.ColumnMissing, "data",
			"The column %s is missing. It tells one row from another.", s.Key)
	}
	return columns, nil
}

// Judge says of every row of a table what importing it will do. Columns that the
// table lacks stay as they are, or as they are by default in a new row.
//
// Where all rows are to be added, one that stands already is wrong.
func (s Sheet) Judge(
	ctx context.Context, q sqlx.QueryerContext, site int32, t exchange.Table, adds bool,
) (Preview, error) {
	p := Preview{Rows: []Judged{}}
	columns, err := s.columnsOf(t.Header)
	if err != nil {
		return p, err
	}
	before, _, err := s.read(ctx, q, site)
	if err != nil {
		return p, err
	}
	f, err := gather(ctx, q, site)
	if err != nil {
		return p, err
	}
	first := map[string]int{}
	for n, cells := range t.Rows {
		j := s.judge(ctx, f, before, columns, cells)
		if adds && j.old != nil {
			j.Does, j.Field, j.Changes, j.Stands = "wrong", s.Key, []ledger.Change{}, true
			j.Sentence = fmt.Sprintf("%s is in the catalog already. Open it to change it, or enter another.", j.old[s.Key])
		}
		j.Row = n + 2
		key := strings.ToUpper(j.Key)
		if at, twice := first[key]; twice && j.Does != "wrong" {
			j.Does, j.Field, j.Sentence = "wrong", s.Key, fmt.Sprintf("%s stands in row %d already.", j.Key, at)
		} else if !twice {
			first[key] = j.Row
		}
		switch j.Does {
		case "new":
			p.New++
		case "change":
			p.Changed++
		case "same":
			p.Same++
		default:
			p.Wrong++
		}
		p.Rows = append(p.Rows, j)
	}
	switch {
	case p.Wrong > 0:
		p.Button = fmt.Sprintf("%d of %d rows are wrong", p.Wrong, len(p.Rows))
	case p.New+p.Changed == 0:
		p.Button = "Nothing would change"
	default:
		p.Button = fmt.Sprintf("Import %d new, %d changed", p.New, p.Changed)
	}
	return p, nil
}

func (s Sheet) names() string { return strings.Join(s.columnNames(), ", ") }

func (s Sheet) judge(ctx context.Context, f *facts, before map[string]Row, columns []Column, cells []string) Judged {
	j := Judged{Changes: []ledger.Change{}, row: Row{}}
	for i, c := range columns {
		if c.Name == s.Key {
			j.Key = strings.TrimSpace(cells[i])
		}
	}
	j.old = before[strings.ToUpper(j.Key)]
	for _, c := range s.Columns {
		j.row[c.Name] = c.empty()
		if j.old != nil {
			j.row[c.Name] = j.old[c.Name]
		}
	}
	err := func() error {
		for i, c := range columns {
			text, err := c.read(cells[i])
			if err != nil {
				return err
			}
			if c.Name == s.Key && j.old != nil {
				// However it is typed, it is that very one.
				text = j.old[c.Name]
			}
			j.row[c.Name] = text
		}
		for _, c := range s.Columns {
			if c.Needed && j.row[c.Name] == "" {
				return refusal.New(refusal.FieldMissing, c.Name, "%s is missing. %s", c.Label, c.Help)
			}
		}
		if err := s.mayWrite(f.person, j.old, j.row); err != nil {
			return err
		}
		if s.check == nil {
			return nil
		}
		return s.check(ctx, f, j.old, j.row)
	}()
	if err != nil {
		j.Does, j.Sentence = "wrong", "This row cannot be checked now. Try again."
		if r := refusal.From(err); r != nil {
			j.Field, j.Sentence = r.Field, r.Sentence
		}
		return j
	}
	j.Does = "same"
	for _, c := range s.Columns {
		if j.old[c.Name] != j.row[c.Name] {
			j.Does = "change"
			j.Changes = append(j.Changes, ledger.Change{What: c.Label, Before: shown(j.old[c.Name]),
				After: shown(j.row[c.Name])})
		}
	}
	if j.old == nil {
		j.Does = "new"
	}
	return j
}

func shown(text string) string {
	if text == "" {
		return "nothing"
	}
	return text
}

// Import writes what Judge says, all of it, or nothing when a row is wrong.
func (s Sheet) Import(ctx context.Context, tx *command.Tx, site int32, t exchange.Table, adds bool) (Preview, error) {
	if err := tx.At(ctx, site); err != nil {
		return Preview{}, err
	}
	// One import at a time: each judges what the one before has written.
	if _, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock(7205759404)`); err != nil {
		return Preview{}, fmt.Errorf("waiting for another import: %w", err)
	}
	p, err := s.Judge(ctx, tx, site, t, adds)
	if err != nil {
		return p, err
	}
	for _, j := range p.Rows {
		if j.Does == "wrong" {
			return p, refusal.New(refusal.RowsWrong, j.Field,
				"%d of %d rows are wrong, and nothing was imported. The first is row %d: %s", p.Wrong, len(p.Rows), j.Row, j.Sentence).With("wrong", p.Wrong)
		}
	}
	if _, err := command.Each(tx, p.Rows, func(j Judged) (none struct{}, err error) {
		if j.Does == "same" {
			return none, nil
		}
		if err := s.write(ctx, tx, site, j.old, j.row); err != nil {
			return none, fmt.Errorf("importing row %d: %w", j.Row, err)
		}
		return none, nil
	}); err != nil {
		return p, err
	}
	tx.Notify("catalog", "stock", "floor")
	return p, s.remember(ctx, tx, site, p.Rows)
}
