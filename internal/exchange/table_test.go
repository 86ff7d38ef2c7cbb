package exchange

import (
	"bytes"
	"errors"
	"fmt"
	"math/rand/v2"
	"os/exec"
	"reflect"
	"runtime"
	"strings"
	"testing"

	"lanternrow/internal/core/refusal"

	"github.com/xuri/excelize/v2"
)

var strange = []string{"", "0123", "1.50", "-3", "a,b", "a;b", `say "so"`, "two\nlines", "=1+1", "@cmd",
	"'quoted", "''", "Ålesund", "漢字", "2027-12-31", "true", "1e5", strings.Repeat("x", 400)}

// TestATableComesBackAsItWent writes random tables of awkward text and reads them.
func TestATableComesBackAsItWent(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 7))
	for _, format := range []string{CSV, XLSX} {
		for range 25 {
			var table Table
			for i := range 1 + r.IntN(6) {
				table.Header = append(table.Header, fmt.Sprint("column_", i))
			}
			for range 1 + r.IntN(20) {
				row := make([]string, len(table.Header))
				for i := range row {
					row[i] = strange[r.IntN(len(strange))]
				}
				row[0] = "k"
				table.Rows = append(table.Rows, row)
			}
			var b bytes.Buffer
			if err := table.Write(&b, format); err != nil {
				t.Fatal(err)
			}
			back, err := Read(b.Bytes())
			if err != nil || !reflect.DeepEqual(back, table) {
				t.Fatalf("%s: %q came back as %q (%v)", format, table, back, err)
			}
			if format == CSV && bytes.Contains(b.Bytes(), []byte("\n=")) {
				t.Fatal("a formula stands at the beginning of a cell")
			}
		}
	}
}

// TestOthersReadWhatIsWritten lets Python's csv module read the CSV (RFC 4180), and
// its zip and XML modules the XLSX.
func TestOthersReadWhatIsWritten(t *testing.T) {
	table := Table{Header: []string{"sku", "description"}, Rows: [][]string{{"0012", `a "wide" cloth, black`}, {"A;1", "two\nlines"}}}
	for format, script := range map[string]string{
		CSV: `import csv,sys,io; print(list(csv.reader(io.TextIOWrapper(sys.stdin.buffer, encoding="utf-8",
			    newline=""))))`,
		XLSX: `import sys,io,zipfile,re
import xml.etree.ElementTree as E
z=zipfile.ZipFile(io.BytesIO(sys.stdin.buffer.read()))
n={"m":"http://schemas.openxmlformats.org/spreadsheetml/2006/main"}
print([["".join(t.text or "" for t in c.iter("{%s}t"%n["m"])) for c in r.findall("m:c",n)] for r in E.fromstring(z.read("xl/worksheets/sheet1.xml")).iter("{%s}row"%n["m"])])`,
	} {
		var b bytes.Buffer
		if err := table.Write(&b, format); err != nil {
			t.Fatal(err)
		}
		cmd := exec.Command("python3", "-c", script)
		cmd.Stdin = &b
		out, err := cmd.CombinedOutput()
		if err != nil {
			t.Skipf("no Python here: %v", err)
		}
		want := `[['sku', 'description'], ['0012', 'a "wide" cloth, black'], ['A;1', 'two\nlines']]`
		// RFC 4180 ends lines with CR LF, within a field too.
		if got := strings.ReplaceAll(strings.TrimSpace(string(out)), `\r\n`, `\n`); got != want {
			t.Errorf("%s is read by others as\n%s\nwant\n%s", format, got, want)
		}
	}
}

func TestFilesAsPeopleSaveThem(t *testing.T) {
	for name, data := range map[string]string{
		"with a byte order mark": "\uFEFFSKU,Text\nA,b\n", "semicolons": "sku;text\nA;b\n", "tabs": "sku\ttext\nA\tb\n",
		"empty rows about it": "\n\nsku,text\nA,b\n,\n\n", "spaces": " sku , Text \n A , b \n", "a row too short": "sku,text,\nA,b\n",
	} {
		got, err := Read([]byte(data))
		want := Table{Header: []string{"sku", "text"}, Rows: [][]string{{"A", "b"}}}
		if err != nil || !reflect.DeepEqual(got, want) {
			t.Errorf("%s: %q, %v", name, got, err)
		}
	}
	for name, data := range map[string]string{"nothing": "", "blank lines": "\n \n", "an open quote": "sku\n\"A\nB",
		"no workbook": "PK\x03\x04 something"} {
		_, err := Read([]byte(data))
		if r := refusal.From(err); r == nil || r.Field != "data" {
			t.Errorf("%s is read: %v", name, err)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("sku,text\nA,b\n"))
	f.Add([]byte("PK\x03\x04"))
	f.Fuzz(func(t *testing.T, data []byte) {
		table, err := Read(data)
		for _, row := range table.Rows {
			if err == nil && len(row) != len(table.Header) {
				t.Errorf("a row of %d under %d columns", len(row), len(table.Header))
			}
		}
	})
}

// A small file may stand for a huge table: one far cell made every row as long as a sheet
// is wide, and 300 kB took 10 GB. It is refused by name while it is read.
func TestAFileThatStandsForAHugeTableIsRefusedEarly(t *testing.T) {
	sheet := func(set func(f *excelize.File, name string)) []byte {
		f := excelize.NewFile()
		defer f.Close()
		set(f, f.GetSheetName(0))
		var b bytes.Buffer
		if err := f.Write(&b); err != nil {
			t.Fatal(err)
		}
		return b.Bytes()
	}
	cell := func(at, value string) func(*excelize.File, string) {
		return func(f *excelize.File, name string) {
			if err := errors.Join(f.SetCellStr(name, "A1", "sku"), f.SetCellStr(name, at, value)); err != nil {
				t.Fatal(err)
			}
		}
	}
	wide := sheet(func(f *excelize.File, name string) {
		for i := range 8000 {
			if err := f.SetCellStr(name, fmt.Sprint("A", i+1), "k"); err != nil {
				t.Fatal(err)
			}
		}
		cell("XFD2", "far")(f, name)
	})
	for name, c := range map[string]struct {
		data []byte
		code refusal.Code
		says string
	}{
		"a far column":        {wide, "table_wide", "Row 2 of the file has something in column 16384"},
		"a far row":           {sheet(cell("A1048576", "far")), "table_long", "at most 50000 rows"},
		"a long cell":         {sheet(cell("B2", strings.Repeat("x", 6000))), "cell_long", "Row 2, column 2"},
		"many rows of CSV":    {[]byte("sku\n" + strings.Repeat("k\n", 60_000)), "table_long", "at most 50000 rows"},
		"a wide row of CSV":   {[]byte("sku\n" + strings.Repeat(",", 300) + "far\n"), "table_wide", "column 301"},
		"what is no workbook": {[]byte("PK but no workbook"), "table_malformed", "Save it anew"},
	} {
		t.Run(name, func(t *testing.T) {
			var before, after runtime.MemStats
			runtime.GC()
			runtime.ReadMemStats(&before)
			_, err := Read(c.data)
			runtime.ReadMemStats(&after)
			r := refusal.From(err)
			if r == nil || r.Code != c.code || r.Field != "data" || !strings.Contains(r.Sentence, c.says) {
				t.Fatalf("answered %v", err)
			}
			if used := (after.TotalAlloc - before.TotalAlloc) >> 20; used > 512 {
				t.Errorf("%d kB took %d MB", len(c.data)>>10, used)
			}
		})
	}
}
