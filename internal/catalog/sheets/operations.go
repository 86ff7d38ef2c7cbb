package sheets

import (
	"cmp"
	"context"
	"net/http"
	"slices"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Import is a sheet to be read: a file, or rows as they were typed.
type Import struct {
	SiteID int32  `json:"site_id"`
	Data   []byte `json:"data,omitempty" doc:"A file, CSV or XLSX"`
	Rows   []Row  `json:"rows,omitempty" maxItems:"5000" doc:"Rows by column name, instead of a file"`
	Adds   bool   `json:"adds,omitempty" doc:"All of them are new: one that stands already is refused"`
}

// Listing is a page of a sheet.
type Listing = documents.Page[Row]

// table is what was sent as a table.
func (in Import) table() (exchange.Table, error) {
	if len(in.Rows) == 0 {
		return exchange.Read(in.Data)
	}
	var t exchange.Table
	for _, row := range in.Rows {
		for name := range row {
			if !slices.Contains(t.Header, name) {
				t.Header = append(t.Header, name)
			}
		}
	}
	slices.Sort(t.Header)
	for _, row := range in.Rows {
		line := make([]string, len(t.Header))
		for i, name := range t.Header {
			line[i] = row[name]
		}
		t.Rows = append(t.Rows, line)
	}
	return t, nil
}

// uploadLimit is how large an imported file may be, in bytes of its request.
const uploadLimit = 8 << 20

// Named says which sheet is asked for.
type Named struct {
	Sheet string `path:"sheet"`
}

func (n Named) find() (Sheet, error) {
	s, known := Sheets[n.Sheet]
	if !known {
		return s, refusal.New(refusal.SheetUnknown, "", "There is no sheet %q in the catalog.",
			clip(n.Sheet)).Of(refusal.Missing)
	}
	return s, nil
}

// Register adds the catalog's sheets.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/catalog", "list-sheets", "The sheets of the catalog and their columns", web.Everyone,
		func(ctx context.Context, _ *struct{}) ([]Sheet, error) {
			var all []Sheet
			for _, name := range Order {
				all = append(all, Sheets[name].seenBy(ctx))
			}
			return all, nil
		})
	web.Query(r, http.MethodGet, "/catalog/{sheet}", "read-sheet", "Rows of a sheet", web.Everyone,
		func(ctx context.Context, in *struct {
			Named
			Site int32  `query:"site"`
			Text string `query:"q" maxLength:"80"`
			Key  string `query:"key" maxLength:"200" doc:"Only the row that has this key"`
			Sort string `query:"sort" maxLength:"60" doc:"The column that it is sorted by; that of the key without"`
			documents.Asked
		}) (Listing, error) {
			s, err := in.find()
			if err != nil {
				return Listing{}, err
			}
			s = s.seenBy(ctx)
			if in.Key != "" {
				return s.one(ctx, db, in.Site, in.Key)
			}
			return s.list(ctx, db, in.Site, in.Text, in.Sort, in.Asked)
		})
	web.Download(r, "/catalog/{sheet}/export", "export-sheet", "A sheet as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Named
			Site   int32  `query:"site"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			s, err := in.find()
			if err != nil {
				return web.File{}, err
			}
			return web.TableFile(ctx, s.Name, in.Format)(s.seenBy(ctx).Export(ctx, from, in.Site))
		})
	registerImports(r)
	registerHistory(r)
}

// registerHistory adds what was changed of a sheet, and by whom.
func registerHistory(r *web.Router) {
	type Whose struct {
		Named
		Key  string `query:"key" maxLength:"200" doc:"Only the row that has this key"`
		Sort string `query:"sort" enum:"at,key,person" default:"at"`
	}
	web.Query(r, http.MethodGet, "/catalog/{sheet}/history", "list-revisions", "What was changed of a sheet, by whom, from what to what",
		web.Everyone, func(ctx context.Context, in *struct {
			Whose
			documents.Asked
		}) (documents.Page[Revision], error) {
			s, err := in.find()
			if err != nil {
				return documents.Page[Revision]{}, err
			}
			return s.seenBy(ctx).history(ctx, r.Reads, in.Key, in.Sort, in.Asked)
		})
	web.Download(r, "/catalog/{sheet}/history/export", "export-revisions", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Whose
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			s, err := in.find()
			if err != nil {
				return web.File{}, err
			}
			return web.TableFile(ctx, s.Name+"-history", in.Format)(revisions.Table(ctx, from, in.Sort, in.Down, s.Name, in.Key,
				s.seenBy(ctx).columnNames()))
		})
}

// registerImports adds the operations that bring whole sheets in.
func registerImports(r *web.Router) {
	db := r.Reads
	type upload struct {
		Named
		Body Import
	}
	web.Query(r, http.MethodPost, "/catalog/{sheet}/import/preview", "preview-import",
		"What an import will do with every row", web.Desk,
		func(ctx context.Context, in *upload) (Preview, error) {
			s, err := in.find()
			if err != nil {
				return Preview{}, err
			}
			t, err := in.Body.table()
			if err != nil {
				return Preview{}, err
			}
			return s.Judge(ctx, db, in.Body.SiteID, t, in.Body.Adds)
		}, web.Large(uploadLimit))
	web.Command(r, "/catalog/{sheet}/import", "import-sheet", "Import rows, all of them or none", web.Desk,
		func(ctx context.Context, tx *command.Tx, in *upload) (Preview, error) {
			s, err := in.find()
			if err != nil {
				return Preview{}, err
			}
			t, err := in.Body.table()
			if err != nil {
				return Preview{}, err
			}
			p, err := s.Import(ctx, tx, in.Body.SiteID, t, in.Body.Adds)
			// The answer is kept; what was already said row by row is not kept again.
			p.Rows = []Judged{}
			return p, err
		}, web.Large(uploadLimit))
	web.Query(r, http.MethodPost, "/catalog/bins/range", "range-of-bins",
		"The bins of a range of aisles, bays and levels, as rows to import", web.Office,
		func(_ context.Context, in *struct{ Body Range }) ([]Row, error) {
			t, err := in.Body.Table()
			rows := []Row{}
			for _, cells := range t.Rows {
				row := Row{}
				for i, name := range t.Header {
					row[name] = cells[i]
				}
				rows = append(rows, row)
			}
			return rows, err
		})
}

// one finds the row that has a key.
func (s Sheet) one(ctx context.Context, q sqlx.QueryerContext, site int32, key string) (Listing, error) {
	rows, _, err := s.read(ctx, q, site)
	out, n := Listing{Rows: []Row{}}, 0
	if row, known := rows[strings.ToUpper(strings.TrimSpace(key))]; known {
		out.Rows, n = append(out.Rows, row), 1
	}
	out.Total = &n
	return out, err
}

// sortKeys are what its rows can be sorted by: each column, by its figure where it holds one.
func (s Sheet) sortKeys() map[string]documents.ComputedKey[Row] {
	keys := map[string]documents.ComputedKey[Row]{}
	for _, c := range s.Columns {
		key := documents.ComputedKey[Row]{Text: func(r Row) string { return r[c.Name] }}
		if slices.Contains([]string{"number", "count", "percent"}, c.Kind) {
			key.Figure = func(r Row) decimal.Decimal {
				d, _ := decimal.NewFromString(r[c.Name])
				return d
			}
		}
		keys[c.Name] = key
	}
	return keys
}

// list finds the rows that have every word of the text somewhere.
func (s Sheet) list(
	ctx context.Context, q sqlx.QueryerContext, site int32, text, sort string, asked documents.Asked,
) (Listing, error) {
	rows, order, err := s.read(ctx, q, site)
	if err != nil {
		return Listing{}, err
	}
	keys := s.sortKeys()
	if sort = cmp.Or(sort, s.Key); keys[sort].Text == nil {
		return Listing{}, refusal.New(refusal.Malformed, "query.sort", "The sheet has no column %q.", sort)
	}
	var found []Row
	words := strings.Fields(strings.ToLower(text))
	for _, key := range order {
		var all strings.Builder
		for _, c := range s.Columns {
			all.WriteString(strings.ToLower(rows[key][c.Name]) + "\n")
		}
		if slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(all.String(), w) }) {
			continue
		}
		found = append(found, rows[key])
	}
	return documents.Computed[Row]{Keys: keys, ID: func(r Row) string { return r[s.Key] }}.Page(found, sort, asked)
}
