package papers

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"lanternrow/internal/core/gs1"
	"lanternrow/internal/test/judge"
)

// scanned prints a PDF's pages as a 203 dpi label printer would and has another
// decoder (zxing-wasm) read each.
func scanned(t *testing.T, pdf []byte) (pages []struct{ Identifier, Raw string }) {
	t.Helper()
	dir := t.TempDir()
	file := filepath.Join(dir, "paper.pdf")
	if err := os.WriteFile(file, pdf, 0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("pdftoppm", "-r", "203", "-png", file,
		filepath.Join(dir, "page")).CombinedOutput(); err != nil {
		t.Fatalf("pdftoppm (apt-get install poppler-utils): %v %s", err, out)
	}
	images, _ := filepath.Glob(filepath.Join(dir, "page*.png"))
	reader := judge.NewNode(t, "read.mjs")
	for _, image := range images {
		var read struct{ Identifier, Raw string }
		reader.Ask(t, map[string]string{"file": image}, &read)
		pages = append(pages, read)
	}
	return pages
}

// words is a PDF's text, page by page, as pdftotext reads it.
func words(t *testing.T, pdf []byte) []string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "paper.pdf")
	if err := os.WriteFile(file, pdf, 0o600); err != nil {
		t.Fatal(err)
	}
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	return strings.Split(strings.TrimSuffix(string(text), "\f"), "\f")
}

func TestEveryCartonLabelReadsBack(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(1, 9))
	var labels []CartonLabel
	for i := range 24 {
		sscc, err := gs1.MakeSSCC(0, "9521234", r.Int64N(999_999_999))
		if err != nil {
			t.Fatal(err)
		}
		l := CartonLabel{SSCC: sscc, From: "Wick & Gantry"}
		if i%2 == 0 {
			l.Order, l.To, l.Carrier = fmt.Sprint("S-", i), "Théâtre du Phare, Ålesund", "Northgate Vans"
			l.Address = "Second yard behind the old fish market, Brygga 14, 6004 Ålesund"
		}
		labels = append(labels, l)
	}
	pdf, err := CartonLabels(labels)
	if err != nil {
		t.Fatal(err)
	}
	read := scanned(t, pdf)
	if len(read) != len(labels) {
		t.Fatalf("%d labels on %d pages", len(labels), len(read))
	}
	text := words(t, pdf)
	for i, l := range labels {
		if read[i].Identifier != "]C1" || read[i].Raw != "00"+l.SSCC {
			t.Errorf("label %d reads %+v, want SSCC %s", i, read[i], l.SSCC)
		}
		// And a person can read what the scanner reads.
		if !strings.Contains(text[i], "(00) "+l.SSCC) || l.Order != "" && !strings.Contains(text[i],
			"Théâtre du Phare, Ålesund") || l.Order != "" && !strings.Contains(text[i], "6004 Ålesund") {
			t.Errorf("label %d says %q", i, text[i])
		}
	}
}

func TestALongNoteLosesNoLine(t *testing.T) {
	t.Parallel()
	n := Note{Title: "Delivery note", Number: "D-1", Order: "S-1", Reference: "PO 7", Date: "2027-01-05",
		From: "Quay House", To: "The Lyrebird Theatre", Address: "1 Quay", Carrier: "Northgate Vans"}
	for g := range 7 {
		group := Group{Heading: fmt.Sprintf("Carton %03d", g)}
		for i := range 23 {
			group.Rows = append(group.Rows, Row{SKU: fmt.Sprintf("SKU-%d-%02d", g, i),
				Description: "Hook clamp 50 mm", Lot: "lot L1", Quantity: "12", Unit: "each"})
		}
		n.Groups = append(n.Groups, group)
	}
	n.Open = []Row{{SKU: "LATER-1", Quantity: "3"}}
	pdf, err := n.Print()
	if err != nil {
		t.Fatal(err)
	}
	pages := words(t, pdf)
	all := strings.Join(pages, "")
	for _, g := range n.Groups {
		for _, r := range g.Rows {
			if strings.Count(all, r.SKU) != 1 {
				t.Fatalf("%s stands there %d times", r.SKU, strings.Count(all, r.SKU))
			}
		}
	}
	for i, p := range pages {
		for _, w := range []string{"Delivery note D-1", "The Lyrebird Theatre", "your number PO 7",
			fmt.Sprintf("page %d", i+1)} {
			if !strings.Contains(p, w) {
				t.Errorf("page %d does not say %q", i+1, w)
			}
		}
	}
	if len(pages) < 5 || !strings.Contains(pages[len(pages)-1], "LATER-1") {
		t.Errorf("%d pages, and what is still to come is not on the last", len(pages))
	}
}

// TestAReturnsCodesReadBack has another decoder read a return's number off its paper, off the label behind that, and
// off the label alone; and a person read where it goes.
func TestAReturnsCodesReadBack(t *testing.T) {
	t.Parallel()
	l := ReturnLabel{Number: "RC-1042", From: "Théâtre du Phare, Ålesund", To: "Wick & Gantry", SendBy: "2026-12-12",
		Address: "Second yard behind the old fish market, Brygga 14, 6004 Ålesund"}
	alone, err := l.Print()
	if err != nil {
		t.Fatal(err)
	}
	behind, err := Note{Title: "Return", Number: l.Number, To: l.To, From: l.From, Code: l.Number, Label: &l}.Print()
	if err != nil {
		t.Fatal(err)
	}
	for name, pdf := range map[string][]byte{"the label": alone, "the paper": behind} {
		for i, page := range scanned(t, pdf) {
			if page.Raw != l.Number {
				t.Errorf("page %d of %s reads %+v", i+1, name, page)
			}
		}
		text := words(t, pdf)
		last := text[len(text)-1]
		for _, said := range []string{l.Number, l.From, l.To, "6004 Ålesund", "send it by " + l.SendBy} {
			if !strings.Contains(last, said) {
				t.Errorf("%s does not say %q but %q", name, said, last)
			}
		}
	}
	if pages := len(words(t, behind)); pages != 2 {
		t.Errorf("the paper has %d pages", pages)
	}
}
