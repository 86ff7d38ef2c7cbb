package exchange

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"os/exec"
	"reflect"
	"strings"
	"testing"

	"lanternrow/internal/core/refusal"
)

var strange = []string{"", "0123", "1.50", "-3", "a,b", "a;b", `say "so"`, "two\nlines", "=1+1", "@cmd", "'quoted", "''", "Ålesund", "漢字", "2027-12-31", "true", "1e5", strings.Repeat("x", 400)}

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
	table := Table{[]string{"sku", "description"}, [][]string{{"0012", `a "wide" cloth, black`}, {"A;1", "two\nlines"}}}
	for format, script := range map[string]string{
		CSV: `import csv,sys,io; print(list(csv.reader(io.TextIOWrapper(sys.stdin.buffer, encoding="utf-8", newline=""))))`,
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
		want := Table{[]string{"sku", "text"}, [][]string{{"A", "b"}}}
		if err != nil || !reflect.DeepEqual(got, want) {
			t.Errorf("%s: %q, %v", name, got, err)
		}
	}
	for name, data := range map[string]string{"nothing": "", "blank lines": "\n \n", "an open quote": "sku\n\"A\nB", "no workbook": "PK\x03\x04 something"} {
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
