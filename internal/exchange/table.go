// Package exchange reads and writes tables in open formats: CSV (RFC 4180) and XLSX
// (ECMA-376).
package exchange

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"lanternrow/internal/core/refusal"

	"github.com/xuri/excelize/v2"
)

// A Table is a header and rows of text, each as long as the header.
type Table struct {
	Header []string
	Rows   [][]string
	// Money are the columns that tell of it, by their names.
	Money []string
}

// Moneyless is the table without the columns that tell of money.
func (t Table) Moneyless() Table {
	out := Table{}
	kept := func(cells []string) (left []string) {
		for i, cell := range cells {
			if !slices.Contains(t.Money, t.Header[i]) {
				left = append(left, cell)
			}
		}
		return left
	}
	out.Header = kept(t.Header)
	for _, r := range t.Rows {
		out.Rows = append(out.Rows, kept(r))
	}
	return out
}

// Formats that a table can be written in.
const (
	CSV  = "csv"
	XLSX = "xlsx"
)

// Types are the media types of the formats.
var Types = map[string]string{CSV: "text/csv; charset=utf-8",
	XLSX: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}

// What one file may have. Each is looked at while the file is read, so that no more of it
// is ever kept than this.
const (
	mostRows    = 50_000
	mostColumns = 200
	mostInCell  = 5_000
	// unpacked bounds an XLSX file's parts together, in bytes.
	unpacked = 64 << 20
)

// gatherer collects rows within the limits.
type gatherer struct{ rows [][]string }

// add takes the n-th row of the file, counted from 1.
func (g *gatherer) add(n int, row []string) error {
	for len(row) > 0 && row[len(row)-1] == "" {
		row = row[:len(row)-1]
	}
	if n > mostRows+1 {
		return refusal.New(refusal.TableLong, "data",
			"The file goes on beyond row %d, and one may have at most %d rows. Split it.", mostRows+1, mostRows)
	}
	if len(row) > mostColumns {
		return refusal.New(refusal.TableWide, "data",
			"Row %d of the file has something in column %d, and there may be at most %d columns. Take out what "+
				"stands far to the right.", n, len(row), mostColumns)
	}
	for i, cell := range row {
		if len(cell) > mostInCell {
			return refusal.New(refusal.CellLong, "data",
				"Row %d, column %d of the file has %d characters, and a cell may have at most %d.", n, i+1, len(cell), mostInCell)
		}
	}
	g.rows = append(g.rows, row)
	return nil
}

// Read reads a table. An XLSX file is known by its first bytes; anything else is CSV,
// with commas, semicolons or tabs.
func Read(data []byte) (Table, error) {
	var rows [][]string
	var err error
	if bytes.HasPrefix(data, []byte("PK")) {
		rows, err = readXLSX(data)
	} else {
		rows, err = readCSV(data)
	}
	if err != nil {
		return Table{}, err
	}
	for len(rows) > 0 && blank(rows[0]) {
		rows = rows[1:]
	}
	if len(rows) == 0 {
		return Table{}, refusal.New(refusal.TableEmpty, "data",
			"The file has no rows. Its first row names the columns.")
	}
	t := Table{}
	for _, name := range rows[0] {
		t.Header = append(t.Header, strings.ToLower(strings.TrimSpace(name)))
	}
	for len(t.Header) > 0 && t.Header[len(t.Header)-1] == "" {
		t.Header = t.Header[:len(t.Header)-1]
	}
	for _, r := range rows[1:] {
		row := make([]string, len(t.Header))
		for i := range row {
			if i < len(r) {
				row[i] = strings.TrimSpace(r[i])
			}
		}
		t.Rows = append(t.Rows, row)
	}
	for len(t.Rows) > 0 && blank(t.Rows[len(t.Rows)-1]) {
		t.Rows = t.Rows[:len(t.Rows)-1]
	}
	return t, nil
}

func blank(row []string) bool { return strings.TrimSpace(strings.Join(row, "")) == "" }

func readCSV(data []byte) ([][]string, error) {
	data = bytes.TrimPrefix(data, []byte("\uFEFF"))
	first, _, _ := bytes.Cut(data, []byte("\n"))
	r := csv.NewReader(bytes.NewReader(data))
	r.FieldsPerRecord = -1
	for _, separator := range ";\t" {
		if bytes.Count(first, []byte(string(separator))) > bytes.Count(first, []byte(string(r.Comma))) {
			r.Comma = separator
		}
	}
	var g gatherer
	for n := 1; ; n++ {
		row, err := r.Read()
		var where *csv.ParseError
		switch {
		case errors.Is(err, io.EOF):
			return g.rows, nil
		case errors.As(err, &where):
			return nil, refusal.New(refusal.TableMalformed, "data",
				"Line %d of the file cannot be read: %v. Save it as CSV in UTF-8, or as XLSX.", where.Line, where.Err)
		case err != nil:
			return nil, fmt.Errorf("reading CSV: %w", err)
		}
		for i := range row {
			row[i] = restrain(row[i])
		}
		if err := g.add(n, row); err != nil {
			return nil, err
		}
	}
}

func readXLSX(data []byte) ([][]string, error) {
	malformed := func() error {
		return refusal.New(refusal.TableMalformed, "data",
			"The file cannot be read as XLSX. Save it anew, or as CSV in UTF-8.")
	}
	f, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{UnzipSizeLimit: unpacked})
	if err != nil {
		return nil, malformed()
	}
	defer f.Close()
	sheet, err := f.Rows(f.GetSheetName(0))
	if err != nil {
		return nil, malformed()
	}
	defer sheet.Close()
	var g gatherer
	for n := 1; sheet.Next(); n++ {
		// What is kept is read, not how the cell shows it.
		row, err := sheet.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return nil, malformed()
		}
		if err := g.add(n, row); err != nil {
			return nil, err
		}
	}
	if sheet.Error() != nil {
		return nil, malformed()
	}
	return g.rows, nil
}

// Write writes the table in a format.
func (t Table) Write(w io.Writer, format string) error {
	if format == XLSX {
		return t.writeXLSX(w)
	}
	c := csv.NewWriter(w)
	c.UseCRLF = true
	if err := c.Write(t.Header); err != nil {
		return fmt.Errorf("writing CSV: %w", err)
	}
	for _, row := range t.Rows {
		harmless := make([]string, len(row))
		for i, cell := range row {
			harmless[i] = harm(cell)
		}
		if err := c.Write(harmless); err != nil {
			return fmt.Errorf("writing CSV: %w", err)
		}
	}
	c.Flush()
	return c.Error()
}

func (t Table) writeXLSX(w io.Writer) error {
	f := excelize.NewFile()
	defer f.Close()
	s, err := f.NewStreamWriter(f.GetSheetName(0))
	if err != nil {
		return fmt.Errorf("writing XLSX: %w", err)
	}
	for i, row := range append([][]string{t.Header}, t.Rows...) {
		cells := make([]any, len(row))
		for j, cell := range row {
			// Text, so that codes keep their zeros.
			cells[j] = cell
		}
		if err := s.SetRow(fmt.Sprintf("A%d", i+1), cells); err != nil {
			return fmt.Errorf("writing XLSX: %w", err)
		}
	}
	if err := s.Flush(); err != nil {
		return fmt.Errorf("writing XLSX: %w", err)
	}
	if err := f.Write(w); err != nil {
		return fmt.Errorf("writing XLSX: %w", err)
	}
	return nil
}

// harm takes the harm out of text that a spreadsheet would run as a formula when it
// opens a CSV file; restrain is the way back.
func harm(cell string) string {
	if strings.HasPrefix(cell, "=") || strings.HasPrefix(cell, "@") || strings.HasPrefix(cell, "'") {
		return "'" + cell
	}
	return cell
}

func restrain(cell string) string {
	if len(cell) > 1 && cell[0] == '\'' && strings.ContainsRune("=@'", rune(cell[1])) {
		return cell[1:]
	}
	return cell
}
