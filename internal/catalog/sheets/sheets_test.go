package sheets_test

import (
	"bytes"
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"

	"lanternrow/internal/core/refusal"

	"lanternrow/internal/catalog/sheets"
	"lanternrow/internal/core/gs1"
	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/test/world"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

func importTable(h *world.House, sheet string, t exchange.Table) (sheets.Preview, error) {
	return world.Act(h, func(ctx context.Context, tx *command.Tx) (sheets.Preview, error) {
		return sheets.Sheets[sheet].Import(ctx, tx, world.Site, t, false)
	})
}

func export(t *testing.T, h *world.House, sheet string) exchange.Table {
	t.Helper()
	table, err := sheets.Sheets[sheet].Export(context.Background(), h.App, world.Site)
	if err != nil {
		t.Fatal(err)
	}
	return table
}

// through writes a table as a file and reads it again, as a person does who saves it.
func through(t *testing.T, table exchange.Table, format string) exchange.Table {
	t.Helper()
	var b bytes.Buffer
	if err := table.Write(&b, format); err != nil {
		t.Fatal(err)
	}
	back, err := exchange.Read(b.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	return back
}

func TestTheSameFileInUnchangedChangesNothing(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 20)
	for name := range sheets.Sheets {
		for _, format := range []string{exchange.CSV, exchange.XLSX} {
			table := export(t, h, name)
			p, err := importTable(h, name, through(t, table, format))
			if err != nil || p.Same != len(table.Rows) || p.New+p.Changed+p.Wrong > 0 ||
				p.Button != "Nothing would change" {
				t.Errorf("%s as %s: %+v %v", name, format, p, err)
			}
			if after := export(t, h, name); !reflect.DeepEqual(after, table) {
				t.Errorf("%s was\n%v\nand is\n%v", name, table, after)
			}
		}
	}
}

// fitSteps leaves out what does not go together in a kind of return.
func fitSteps(table exchange.Table) {
	at := func(column string) int { return slices.Index(table.Header, column) }
	for _, row := range table.Rows {
		if row[at("goods_stay")] == "yes" {
			row[at("gives_when")], row[at("decides")], row[at("papered")] = "announced", "by a person", "yes"
		}
		if row[at("decides")] == "stock" {
			row[at("inspected")] = "yes"
		}
	}
}

// TestWhatIsImportedIsWhatIsExported makes random rows and changes, imports them, and
// reads them back.
func TestWhatIsImportedIsWhatIsExported(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	r := rand.New(rand.NewPCG(3, 1))
	numbers := 900
	gtin := func() string {
		numbers++
		body := fmt.Sprintf("09521234%05d", numbers)
		return body + string(gs1.CheckDigit(body))
	}
	value := func(c sheets.Column) string {
		switch c.Kind {
		case "flag":
			return []string{"yes", "no"}[r.IntN(2)]
		case "choice":
			return c.Choices[r.IntN(len(c.Choices))]
		case "count":
			return fmt.Sprint(r.IntN(400))
		case "percent":
			return fmt.Sprintf("%d.25", r.IntN(100))
		case "number":
			return fmt.Sprintf("%d.5", 1+r.IntN(90))
		}
		return fmt.Sprintf("Größe %d; \"a,b\" =%d", r.IntN(1000), r.IntN(1000))
	}
	for _, name := range sheets.Order {
		sheet := sheets.Sheets[name]
		if name == "people" {
			// Nobody is added by a sheet.
			continue
		}
		for round := range 8 {
			table := export(t, h, name)
			for n := range 6 {
				row := make([]string, len(table.Header))
				for i, c := range sheet.Columns {
					switch {
					case name == "prices" && c.Name == sheet.Key:
						row[i] = fmt.Sprintf("CUS / %s / %d-01-%02d", []string{"HC-050", "HZ-500"}[n%2], 2030+round,
							n+1)
					case name == "picking-bins" && c.Name == sheet.Key:
						row[i] = fmt.Sprintf("%s / %c-%02d-1-A", []string{"HC-050", "HZ-500", "CL-BLK", "SW-130", "SP-150",
							"HS-001"}[n], "AB"[round%2], 1+round/2)
					case c.Name == "least":
						row[i] = "0"
					case name == "supplier-items" && c.Name == sheet.Key:
						row[i] = fmt.Sprintf("N%d-%d-SU / HC-050", round, n)
					case c.Name == "pack":
						row[i] = ""
					case c.Name == sheet.Key:
						row[i] = fmt.Sprintf("N%d-%d-%s", round, n, strings.ToUpper(name[:2]))
					case c.Name == "packs":
						row[i] = []string{"", "each=1=" + gtin() + "; box=12===9x8x7 cm",
							"crate=24=" + gtin() + "=7.25 kg=40x30x12.5 cm"}[r.IntN(3)]
					case c.Name == "home_bin":
						row[i] = []string{"", "A-01-1-A", "B-03-1-A"}[r.IntN(3)]
					case c.Name == "zone":
						row[i] = []string{"", "A", "B"}[r.IntN(3)]
					case c.Name == "class_a_pct":
						row[i] = "70"
					case c.Name == "class_b_pct":
						row[i] = "90.5"
					case c.Name == "still_days" || c.Name == "busy_moves":
						row[i] = "30"
					case c.Name == "pace":
						row[i] = "0.5"
					case c.Name == "reorder_point":
						row[i] = "0"
					case c.Name == "whole":
						row[i] = "yes"
					case c.Name == "lot_rule":
						row[i] = []string{"", "{SUP}-{YY}{DDD}-{N3}", "L{N}"}[r.IntN(3)]
					case c.Name == "carrier":
						row[i] = []string{"", "Ferry"}[r.IntN(2)]
					case c.Name == "email":
						row[i] = []string{"", "desk@example.org"}[r.IntN(2)]
					case c.Name == "to_site":
						row[i] = "Other House"
					case name == "relays" && c.Name == "item":
						row[i] = []string{"HC-050", "HZ-500"}[r.IntN(2)]
					case name == "relays" && c.Name == "supplier":
						row[i] = []string{"", "SUP"}[r.IntN(2)]
					case c.Name == "timezone":
						row[i] = []string{"UTC", "Europe/Lisbon", "Asia/Kolkata"}[r.IntN(3)]
					case c.Name == "cross_aisles":
						row[i] = []string{"0", "0; 8.5", "-2; 0; 12.25"}[r.IntN(3)]
					case c.Name == "sides_cm":
						row[i] = []string{"60 × 40 × 30", "35.5 × 20 × 20"}[r.IntN(2)]
					case c.Name == "collects":
						row[i] = []string{"", "10:30", "09:15; 16:00"}[r.IntN(3)]
					case c.Name == "accepts":
						row[i] = []string{"", "fluid", "fluid; heavy"}[r.IntN(3)]
					case c.Name == "name":
						row[i] = fmt.Sprintf("House %d of %d, %s", n, round, name)
					default:
						row[i] = value(c)
					}
				}
				table.Rows = append(table.Rows, row)
			}
			// And some of those that are there become something else.
			for range 4 {
				row := table.Rows[r.IntN(len(table.Rows))]
				i := r.IntN(len(row))
				if c := sheet.Columns[i]; c.Name != sheet.Key &&
					!slices.Contains([]string{"pack", "packs", "home_bin", "zone", "pace", "reorder_point", "name", "whole",
						"lot_rule", "email", "carrier", "timezone", "cross_aisles", "accepts", "kind", "sides_cm", "collects",
						"to_site", "item", "supplier", "least", "class_a_pct", "class_b_pct", "still_days", "busy_moves"}, c.Name) {
					row[i] = value(c)
				}
			}
			if name == "return-kinds" {
				fitSteps(table)
			}
			before := len(table.Rows)
			p, err := importTable(h, name, through(t, table, []string{exchange.CSV, exchange.XLSX}[r.IntN(2)]))
			if err != nil || p.New != 6 || p.New+p.Changed+p.Same != before {
				t.Fatalf("%s: %+v %v", name, p, err)
			}
			want := slices.Clone(table.Rows)
			slices.SortFunc(want, func(a, b []string) int { return strings.Compare(a[0], b[0]) })
			got := export(t, h, name).Rows
			slices.SortFunc(got, func(a, b []string) int { return strings.Compare(a[0], b[0]) })
			if !reflect.DeepEqual(got, want) {
				for i := range want {
					if !reflect.DeepEqual(got[i], want[i]) {
						t.Fatalf("%s was imported as\n%q\nand is exported as\n%q", name, want[i], got[i])
					}
				}
			}
		}
	}
}

func TestWrongRowsAreNamedAndNothingIsImported(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 20)
	for range 3 {
		h.StockLot(t, world.Fluid, h.Lot(t, world.Fluid, fmt.Sprint("L", h.Holds(t, world.Dock, world.Fluid)), 90),
			world.Dock, 1)
	}
	for name, c := range map[string]struct {
		sheet, header, row string
		field, says        string
	}{
		"tracking after moves": {"items", "sku,tracking", "HZ-500,none", "tracking", "HZ-500 has made 3 moves"},
		"units after moves": {"items", "sku,base_unit", "hc-050,pair", "base_unit",
			"has made 1 moves: its base unit stays each"},
		"tracking before any move": {"items", "sku,tracking", "SW-130,lot", "", ""},
		"a SKU missing":            {"items", "sku,description", ",Lamp", "sku", "SKU is missing"},
		"a description missing":    {"items", "sku,cost", "NEW-1,3", "description", "Description is missing"},
		"a number in words":        {"items", "sku,cost", "HC-050,cheap", "cost", `not "cheap"`},
		"a comma for a point":      {"items", "sku,cost", `HC-050,"3,5"`, "cost", "with a point for decimals"},
		"below zero":               {"items", "sku,weight_kg", "HC-050,-1", "weight_kg", "not -1"},
		"too fine":                 {"items", "sku,pace", "HC-050,0.123", "pace", "at most 2 decimals"},
		"a pace of 2":              {"items", "sku,pace", "HC-050,2", "pace", "from 0 to 1"},
		"a share of 120 %":         {"items", "sku,over_pct", "HC-050,120", "over_pct", "0 to 100"},
		"an unknown tracking":      {"items", "sku,tracking", "HC-050,batch", "tracking", "none, lot, lot_expiry"},
		"neither yes nor no":       {"items", "sku,whole", "HC-050,perhaps", "whole", "yes or no"},
		"half a day":               {"items", "sku,life_in", "HZ-500,1.5", "life_in", "whole number"},
		"a target too low": {"items", "sku,reorder_point,target", "HC-050,20,10", "target",
			"below the reorder point"},
		"no such bin":            {"items", "sku,home_bin", "HC-050,Q-99", "home_bin", "no bin Q-99"},
		"a wrong check digit":    {"items", "sku,packs", "SW-130,each=1=09521234000019", "packs", "check digit"},
		"another's GTIN":         {"items", "sku,packs", "SW-130,each=1=09521234000037", "packs", "HZ-500 already"},
		"half a clamp in a box":  {"items", "sku,packs", "HC-050,box=2.5", "packs", "cannot hold 2.5"},
		"no such pack to remove": {"items", "sku,packs", "HC-050,-crate", "packs", "no pack crate to remove"},
		"a pack of nothing":      {"items", "sku,packs", "HC-050,box", "packs", "name=how many=GTIN"},
		"a limit below contents": {"bins", "code,max_units", "A-01-1-A,19", "max_units", "holds 20"},
		"a dock's code":          {"bins", "code,x", "DOCK 1,4", "code", "is a dock of this site"},
		"no such zone":           {"bins", "code,zone", "A-09-1-A,Q", "zone", "no zone Q"},
		"a customer's code":      {"suppliers", "code,name", "CUS,Somebody", "code", "code of a customer"},
		"a name twice":           {"customers", "code,name", "TWO,the lyrebird theatre", "name", "name of CUS"},
		"a line break":           {"customers", "code,name", "NEW,\"two\nlines\"", "name", "line break"},
	} {
		t.Run(name, func(t *testing.T) {
			table, err := exchange.Read([]byte(c.header + "\n" + c.row + "\n"))
			if err != nil {
				t.Fatal(err)
			}
			before := export(t, h, c.sheet)
			p, err := sheets.Sheets[c.sheet].Judge(world.As("lead"), h.App, world.Site, table, false)
			if err != nil {
				t.Fatal(err)
			}
			j := p.Rows[0]
			if c.field == "" {
				if j.Does == "wrong" {
					t.Fatalf("refused: %s", j.Sentence)
				}
				return
			}
			if j.Does != "wrong" || j.Field != c.field || !strings.Contains(j.Sentence, c.says) || j.Row != 2 {
				t.Fatalf("judged %+v, want %s: %s", j, c.field, c.says)
			}
			_, err = importTable(h, c.sheet, table)
			world.Refused(t, err, "rows_wrong", "nothing was imported", "row 2")
			if !reflect.DeepEqual(export(t, h, c.sheet), before) {
				t.Error("something was imported")
			}
		})
	}
}

func TestOneWrongRowHoldsAllOthersBack(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	table := exchange.Table{Header: []string{"sku", "Description"}, Rows: [][]string{{"N-1", "New"},
		{"HC-050", "Hook clamp, new words"}, {"n-1", "Again"}, {"SW-130", "Stage weight 13 kg"}}}
	p, err := sheets.Sheets["items"].Judge(world.As("lead"), h.App, world.Site, table, false)
	if err != nil || p.New != 1 || p.Changed != 1 || p.Same != 1 || p.Wrong != 1 {
		t.Fatalf("%+v %v", p, err)
	}
	if got := p.Rows[1].Changes; len(got) != 1 || got[0].What != "Description" ||
		got[0].Before != "Hook clamp 50 mm" || got[0].After != "Hook clamp, new words" {
		t.Errorf("changes %v", got)
	}
	if p.Rows[2].Sentence != "n-1 stands in row 2 already." {
		t.Errorf("twice: %+v", p.Rows[2])
	}
	_, err = importTable(h, "items", table)
	world.Refused(t, err, "rows_wrong", "1 of 4 rows")
	table.Rows = append(table.Rows[:2:2], table.Rows[3])
	if p, err = importTable(h, "items", table); err != nil || p.New != 1 || p.Changed != 1 {
		t.Fatalf("%+v %v", p, err)
	}
	for header, code := range map[string]refusal.Code{"sku,colour": "column_unknown", "sku,cost,Cost": "column_twice",
		"description": "column_missing"} {
		_, err := sheets.Sheets["items"].Judge(world.As("lead"), h.App, world.Site,
			exchange.Table{Header: strings.Split(header, ",")}, false)
		world.Refused(t, err, code)
	}
	// What is to be added and stands already is told, however it is written.
	add := exchange.Table{Header: []string{"sku", "description", "base_unit"}, Rows: [][]string{{"hc-050", "Another", "each"}}}
	p, err = sheets.Sheets["items"].Judge(world.As("lead"), h.App, world.Site, add, true)
	if err != nil || p.Wrong != 1 || !p.Rows[0].Stands || p.Rows[0].Field != "sku" {
		t.Errorf("added twice: %+v %v", p, err)
	}
	add.Rows[0][0] = "HC-051"
	if p, err = sheets.Sheets["items"].Judge(world.As("lead"), h.App, world.Site, add, true); err != nil || p.New != 1 {
		t.Errorf("added: %+v %v", p, err)
	}
}

func TestARangeMakesEveryBinOnce(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	r := sheets.Range{Aisles: "1-6", Bays: "1-12", Levels: "1-4", FirstX: 4, AisleGap: 3.5, FirstY: 1, BayGap: 1.2,
		LevelHeight: 1.4, MaxUnits: "40"}
	table, err := r.Table()
	if err != nil || len(table.Rows) != 6*12*4 {
		t.Fatalf("%d bins, %v", len(table.Rows), err)
	}
	if got := table.Rows[len(table.Rows)-1]; strings.Join(got, "|") != "6-12-4||6|12|4|21.50|14.20|4.20|40||" {
		t.Errorf("the last bin is %q", got)
	}
	for range 2 {
		if _, err := importTable(h, "bins", table); err != nil {
			t.Fatal(err)
		}
	}
	var bins, aisles int
	if err := h.Owner.QueryRow(`
		SELECT (SELECT count(*) FROM locations WHERE kind = 'bin' AND site_id = 1),
		       (SELECT count(*) FROM aisles WHERE site_id = 1)`).Scan(
		&bins, &aisles); err != nil || bins != 8+288 || aisles != 2+6 {
		t.Errorf("%d bins in %d aisles (%v)", bins, aisles, err)
	}
	for _, c := range []struct {
		aisles, bays, levels, sides string
		code                        refusal.Code
	}{
		{"A-C", "1,3,5", "2", "A-B", ""}, {"", "1", "1", "", "range_malformed"}, {"6-1", "1", "1", "",
			"range_malformed"}, {"A-", "1", "1", "", "range_malformed"},
		{"1-100", "1-100", "1-2", "", "range_long"}, {"A-3", "1", "1", "", "range_malformed"},
	} {
		table, err := sheets.Range{Aisles: c.aisles, Bays: c.bays, Levels: c.levels, Sides: c.sides}.Table()
		if c.code != "" {
			world.Refused(t, err, c.code)
		} else if err != nil || len(table.Rows) != 18 || table.Rows[17][0] != "C-05-2-B" {
			t.Errorf("%+v makes %d bins, %v", c, len(table.Rows), err)
		}
	}
}

// A cell that names some of an item's packs once deleted the others.
func TestPacksThatAreNotNamedStay(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	for _, step := range []struct{ cell, packs string }{
		{"crate=24", "box of 12=12=09521234000020; crate=24; each=1=09521234000013"},
		{"", "box of 12=12=09521234000020; crate=24; each=1=09521234000013"},
		{"-crate; each=1=09521234000020; box of 12=12", "box of 12=12; each=1=09521234000020"},
	} {
		table, err := exchange.Read([]byte("sku,packs\nHC-050,\"" + step.cell + "\"\n"))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := importTable(h, "items", table); err != nil {
			t.Fatal(err)
		}
		var packs string
		if err := h.Owner.Get(&packs, `
			SELECT string_agg(concat_ws('=', name, trim_scale(holds), gtin), '; ' ORDER BY name) FROM packs
			 WHERE item_id = 1`); err != nil || packs != step.packs {
			t.Fatalf("%q left %s (%v)", step.cell, packs, err)
		}
	}
}
