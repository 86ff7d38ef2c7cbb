package ledger

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5/pgtype"
	"github.com/jmoiron/sqlx"
)

// A sealedKind is what a seal is of. Items, people, locations and parties may be called otherwise later, and prices of orders
// agreed anew: each is sealed as it becomes, and the seal keeps it.
type sealedKind string

// A seal is one link of the chain, beside what it is of as that reads now.
type seal struct {
	Position int64      `db:"position"`
	Kind     sealedKind `db:"kind"`
	RowID    int64      `db:"row_id"`
	Form     int        `db:"form"`
	Hash     []byte     `db:"hash"`
	// Kept is what it was made of, where that may be called otherwise by now.
	Kept []byte `db:"words"`
	// Old are the words of a move that was sealed in the first form.
	Old    string         `db:"old"`
	Fields sql.NullString `db:"fields"`
}

// textArrays reads arrays of texts, in which one may be missing.
var textArrays = pgtype.NewMap()

// fieldsOf reads an array as PostgreSQL writes it.
func fieldsOf(text string) (fields []*string, err error) {
	if err := textArrays.SQLScanner(&fields).Scan(text); err != nil {
		return nil, fmt.Errorf("reading what is sealed: %w", err)
	}
	return fields, nil
}

// words are what the seal is made of, by what stands in the tables now; nothing where what it is of is gone.
func (s seal) words() ([]byte, error) {
	switch {
	case s.Kept != nil:
		return s.Kept, nil
	case s.Form == 1:
		return []byte(s.Old), nil
	case !s.Fields.Valid:
		return nil, nil
	}
	fields, err := fieldsOf(s.Fields.String)
	return lengthPrefixed(fields), err
}

// lastSeal reads the newest seal; that before the first where nothing is sealed.
func lastSeal(ctx context.Context, q sqlx.QueryerContext) (seal, error) {
	last := seal{Hash: make([]byte, sha256.Size)}
	err := sqlx.GetContext(ctx, q, &last, `SELECT position, hash FROM seals ORDER BY position DESC LIMIT 1`)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return last, fmt.Errorf("reading the last seal: %w", err)
	}
	return last, nil
}

// verifyChain goes along the chain, and makes each hash anew.
func (r *Report) verifyChain(ctx context.Context, tx *sqlx.Tx) error {
	hash := make([]byte, sha256.Size)
	rows, err := tx.QueryxContext(ctx, `
		SELECT s.position, s.kind, s.row_id, s.form, s.hash, s.words, coalesce(w.words, '') AS old, n.fields::text AS fields
		  FROM seals s
		  LEFT JOIN move_words w ON s.form = 1 AND w.move_id = s.row_id AND w.xid = s.xid
		  LEFT JOIN (`+sealableRows+`) AS n ON s.form = 2 AND s.words IS NULL AND n.kind = s.kind AND n.id = s.row_id AND n.xid = s.xid
		 ORDER BY s.position`)
	if err != nil {
		return fmt.Errorf("reading the chain: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var s seal
		if err := rows.StructScan(&s); err != nil {
			return fmt.Errorf("reading the chain: %w", err)
		}
		r.Seals++
		if s.Kind == "move" {
			r.Sealed++
		}
		words, err := s.words()
		if err != nil {
			return err
		}
		hash = link(hash, words)
		switch {
		case s.Position != r.Seals:
			r.find("seals", r.Seals, "is missing from the chain")
		case string(hash) != string(s.Hash):
			r.find(s.Kind.table(), s.RowID, "is not as it was when it was sealed")
		case s.Position == r.kept.Position && string(hash) != string(r.kept.Hash):
			r.find("seals", s.Position, "is not what was noted of it outside: the chain up to it was made anew")
		}
		if r.First != nil {
			return nil
		}
	}
	if r.Seals < r.kept.Position {
		r.find("seals", r.Seals+1, fmt.Sprintf("and all behind it are cut off: %d were noted outside", r.kept.Position))
	}
	r.Head = hex.EncodeToString(hash)
	return rows.Err()
}

func (r *Report) find(table string, row int64, wrong string) {
	r.First = &Finding{table, fmt.Sprint(row), wrong}
}

// table is where rows of the kind are.
func (k sealedKind) table() string {
	switch k {
	case "person":
		return "people"
	case "party":
		return "parties"
	}
	return string(k) + "s"
}

// verifyNames holds what items, people, places and parties are called now, and what orders were agreed at, against the last seal of each.
func (r *Report) verifyNames(ctx context.Context, tx *sqlx.Tx) error {
	rows, err := tx.QueryxContext(ctx, `
		SELECT n.kind, n.id AS row_id, n.fields::text AS fields, s.words
		  FROM (`+sealableRows+`) AS n
		  JOIN (SELECT DISTINCT ON (kind, row_id) kind, row_id, xid, words FROM seals WHERE words IS NOT NULL
		         ORDER BY kind, row_id, position DESC) AS s
		    ON s.kind = n.kind AND s.row_id = n.id AND s.xid = n.xid
		 WHERE n.kind IN ('item', 'person', 'location', 'party', 'sales_line', 'purchase_line', 'purchase_order') ORDER BY n.kind, n.id`)
	if err != nil {
		return fmt.Errorf("reading names: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var s seal
		if err := rows.StructScan(&s); err != nil {
			return fmt.Errorf("reading names: %w", err)
		}
		fields, err := fieldsOf(s.Fields.String)
		if err != nil {
			return err
		}
		if string(lengthPrefixed(fields)) != string(s.Kept) {
			r.find(s.Kind.table(), s.RowID, "is called otherwise than when its name was sealed")
			return nil
		}
	}
	return rows.Err()
}

// verifyUnsealed looks for what was written before the last seal of its kind and has none.
func (r *Report) verifyUnsealed(ctx context.Context, tx *sqlx.Tx) error {
	var found []seal
	if err := tx.SelectContext(ctx, &found, `
		WITH last AS (SELECT DISTINCT ON (kind) kind, xid, row_id FROM seals ORDER BY kind, position DESC)
		SELECT n.kind, n.id AS row_id
		  FROM (`+sealableRows+`) AS n JOIN last ON last.kind = n.kind
		  LEFT JOIN seals s ON s.kind = n.kind AND s.row_id = n.id AND s.xid = n.xid
		 WHERE s.position IS NULL AND (n.xid, n.id) < (last.xid, last.row_id) ORDER BY n.kind, n.id LIMIT 1`); err != nil {
		return fmt.Errorf("looking for what is not sealed: %w", err)
	}
	if len(found) > 0 {
		r.find(found[0].Kind.table(), found[0].RowID, "was written before the last seal and has none")
	}
	return nil
}
