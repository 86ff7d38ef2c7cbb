package sheets

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// A Revision is one field of the catalog that somebody set: who, when, from what to what.
type Revision struct {
	ID     int64     `db:"id" json:"id"`
	At     time.Time `db:"at" json:"at"`
	Person string    `db:"person" json:"person"`
	Key    string    `db:"key" json:"key"`
	Field  string    `db:"field" json:"field" doc:"The column, by its label; empty where the row was added"`
	Was    string    `db:"was" json:"was"`
	Became string    `db:"became" json:"became"`
	documents.Sorted
}

// revisions are those of a sheet ($1), of a row ($2; of all without), and of these columns ($3).
var revisions = documents.List[Revision]{
	Query: `
		SELECT c.id, c.at, coalesce(p.name, 'the console') AS person, c.key, c.field, c.was, c.became
		  FROM catalog_changes c LEFT JOIN people p ON p.id = c.person_id
		 WHERE c.sheet = $1 AND ($2 = '' OR upper(c.key) = upper($2)) AND (c.field = '' OR c.field = ANY($3))`,
	Keys: map[string]documents.SortKey{
		"at":     {Expr: "o.id::numeric", Type: "numeric"},
		"key":    {Expr: "upper(o.key)", Type: "text"},
		"person": {Expr: "lower(o.person)", Type: "text"},
	},
	Header: []string{"at", "person", "key", "field", "was", "became"},
	Text: func(r Revision) []string {
		return []string{r.At.UTC().Format(time.RFC3339), r.Person, r.Key, r.Field, r.Was, r.Became}
	},
}

// history reads what was changed of the sheet, with what whoever asks sees of it.
func (s Sheet) history(ctx context.Context, q sqlx.QueryerContext, key, sort string, asked documents.Asked) (
	documents.Page[Revision], error,
) {
	page, err := revisions.Page(ctx, q, sort, asked, s.Name, key, s.columnNames())
	for i, r := range page.Rows {
		if c, known := s.column(r.Field); known {
			page.Rows[i].Field = c.Label
		}
	}
	return page, err
}

// remember keeps who set what. What a new row has by default is not told.
func (s Sheet) remember(ctx context.Context, tx *command.Tx, site int32, judged []Judged) error {
	var keys, fields, was, became []string
	add := func(key, field, before, after string) {
		keys, fields, was, became = append(keys, key), append(fields, field), append(was, before), append(became, after)
	}
	for _, j := range judged {
		if j.Does == "same" {
			continue
		}
		if j.old == nil {
			add(j.row[s.Key], "", "", "")
		}
		for c, before := range s.changed(j.old, j.row) {
			if c.Name != s.Key {
				add(j.row[s.Key], c.Name, before, j.row[c.Name])
			}
		}
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO catalog_changes (at, person_id, sheet, site_id, key, field, was, became)
		SELECT $1, nullif($2, 0), $3, nullif($4, 0), key, field, was, became
		  FROM unnest($5::text[], $6::text[], $7::text[], $8::text[]) AS c (key, field, was, became)`,
		tx.Now, tx.Person.ID, s.Name, site, keys, fields, was, became); err != nil {
		return fmt.Errorf("remembering what became of %s: %w", s.Name, err)
	}
	return nil
}
