// Package papers makes what is printed: carton labels, packing slips and delivery
// notes, as PDF.
package papers

import (
	"bytes"
	"fmt"
	"image/color"
	"strings"

	"github.com/boombuler/barcode/code128"
	"github.com/boombuler/barcode/datamatrix"
	"github.com/go-pdf/fpdf"
)

// dot is the width of one printed dot of a 203 dpi label printer, in millimetres.
// Bars are whole numbers of dots, so that they stay sharp.
const dot = 25.4 / 203

// A Sheet is a paper in the making.
type Sheet struct {
	pdf  *fpdf.Fpdf
	text func(string) string
}

func newSheet(width, height float64) *Sheet {
	pdf := fpdf.NewCustom(&fpdf.InitType{UnitStr: "mm", Size: fpdf.SizeType{Wd: width, Ht: height}})
	pdf.SetMargins(0, 0, 0)
	pdf.SetAutoPageBreak(false, 0)
	return &Sheet{pdf: pdf, text: pdf.UnicodeTranslatorFromDescriptor("")}
}

func (s *Sheet) bytes() ([]byte, error) {
	var b bytes.Buffer
	if err := s.pdf.Output(&b); err != nil {
		return nil, fmt.Errorf("writing a PDF: %w", err)
	}
	return b.Bytes(), nil
}

func (s *Sheet) say(x, y, points float64, style, text string) {
	s.pdf.SetFont("Helvetica", style, points)
	s.pdf.Text(x, y, s.text(text))
}

func (s *Sheet) sayRight(x, y, points float64, style, text string) {
	s.pdf.SetFont("Helvetica", style, points)
	s.pdf.Text(x-s.pdf.GetStringWidth(s.text(text)), y, s.text(text))
}

// within says a text in so many lines of a width at most, and sets down where it is cut.
func (s *Sheet) within(x, y, width, points float64, text string, lines int) {
	const leading = 0.4 // millimetres a point
	s.pdf.SetFont("Helvetica", "", points)
	parts := s.pdf.SplitLines([]byte(s.text(strings.Join(strings.Fields(text), " "))), width)
	for i, part := range parts[:min(len(parts), lines)] {
		words := string(part)
		if i == lines-1 && len(parts) > lines {
			words += s.text(" …")
		}
		s.pdf.Text(x, y+float64(i)*leading*points, words)
	}
}

// gs1128 draws a GS1-128 symbol of a raw element string as vector bars and returns
// its width.
func (s *Sheet) gs1128(x, y, height float64, dots int, element string) (float64, error) {
	raw := make([]rune, 0, len(element)+1)
	raw = append(raw, code128.FNC1)
	for _, c := range element {
		if c == '\x1d' {
			c = code128.FNC1
		}
		raw = append(raw, c)
	}
	symbol, err := code128.Encode(string(raw))
	if err != nil {
		return 0, fmt.Errorf("drawing a bar code: %w", err)
	}
	module := dot * float64(dots)
	width := symbol.Bounds().Dx()
	s.pdf.SetFillColor(0, 0, 0)
	for i := 0; i < width; {
		j := i
		for j < width && symbol.At(j, 0) == color.Black {
			j++
		}
		if j > i {
			s.pdf.Rect(x+float64(i)*module, y, float64(j-i)*module, height, "F")
		}
		i = max(j, i+1)
	}
	return float64(width) * module, nil
}

// matrix draws a GS1 Data Matrix of a raw element string as vector squares of so many
// dots, with the quiet zone of one module that the symbol asks for, and returns its
// width. Text that is no element string is drawn as a plain Data Matrix.
func (s *Sheet) matrix(x, y float64, dots int, content string, gs1 bool) (float64, error) {
	raw := []byte(content)
	if gs1 {
		raw = append([]byte{datamatrix.FNC1}, raw...)
	}
	symbol, err := datamatrix.Encode(string(raw))
	if err != nil {
		return 0, fmt.Errorf("drawing a matrix code: %w", err)
	}
	module := dot * float64(dots)
	s.pdf.SetFillColor(0, 0, 0)
	size := symbol.Bounds().Dx()
	for row := range size {
		for i := 0; i < size; {
			j := i
			for j < size && symbol.At(j, row) == color.Black {
				j++
			}
			if j > i {
				s.pdf.Rect(x+float64(i)*module, y+float64(row)*module, float64(j-i)*module, module, "F")
			}
			i = max(j, i+1)
		}
	}
	return float64(size) * module, nil
}

// A GoodsLabel is the label of an item or of a lot of it.
type GoodsLabel struct {
	SKU         string `json:"sku"`
	Description string `json:"description"`
	Lot         string `json:"lot,omitempty"`
	Serial      string `json:"serial,omitempty"`
	ExpiresOn   string `json:"expires_on,omitempty"`
	// Pack is what it is put on, such as a box of 12.
	Pack string `json:"pack"`
	// Element is what its symbol carries: a raw element string where there is a GTIN,
	// the SKU otherwise.
	Element string `json:"element"`
	GS1     bool   `json:"gs1"`
	// Words are the same for people.
	Words string `json:"words"`
}

// GoodsLabels makes labels of 74 by 52 mm, one a page.
func GoodsLabels(labels []GoodsLabel) ([]byte, error) {
	s := newSheet(74, 52)
	for _, l := range labels {
		s.pdf.AddPage()
		s.say(4, 9, 17, "B", l.SKU)
		s.sayRight(70, 8.5, 9, "", l.Pack)
		s.say(4, 15, 9, "", clip(l.Description, 44))
		s.pdf.Line(4, 17.5, 70, 17.5)
		width, err := s.matrix(5, 20.5, 5, l.Element, l.GS1)
		if err != nil {
			return nil, err
		}
		y := 24.0
		for _, line := range []struct{ name, value string }{{"Lot", l.Lot}, {"Serial", l.Serial},
			{"Expires", l.ExpiresOn}} {
			if line.value != "" {
				s.say(9+width, y, 8, "", line.name)
				s.say(9+width, y+5.5, 14, "B", line.value)
				y += 11
			}
		}
		s.say(4, 49.5, 6.5, "", l.Words)
	}
	return s.bytes()
}

// wrap breaks text into lines of at most so many characters, between words.
func wrap(text string, most int) (lines []string) {
	for word := range strings.FieldsSeq(text) {
		if n := len(lines); n > 0 && len(lines[n-1])+1+len(word) <= most {
			lines[n-1] += " " + word
		} else {
			lines = append(lines, word)
		}
	}
	return lines
}

func clip(text string, most int) string {
	if r := []rune(text); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return text
}

// A CartonLabel is one carton's label. The order and the address are empty on a
// blank one.
type CartonLabel struct {
	SSCC, Order, To, Address, From, Carrier string
}

// CartonLabels makes labels of 105 by 74 mm, one a page.
func CartonLabels(labels []CartonLabel) ([]byte, error) {
	s := newSheet(105, 74)
	for _, l := range labels {
		s.pdf.AddPage()
		s.say(6, 9, 9, "", l.From)
		if l.Order != "" {
			s.sayRight(99, 10, 14, "B", l.Order)
			s.say(6, 15, 13, "B", l.To)
			s.within(6, 19.5, 62, 9, l.Address, 3)
			s.sayRight(99, 20, 10, "", l.Carrier)
		} else {
			s.say(6, 19, 13, "B", "Carton")
		}
		s.pdf.Line(6, 29, 99, 29)
		if _, err := s.gs1128(9, 33, 26, 2, "00"+l.SSCC); err != nil {
			return nil, err
		}
		s.say(9, 66, 12, "", "(00) "+l.SSCC)
		s.sayRight(99, 66, 18, "B", l.SSCC[14:])
	}
	return s.bytes()
}

// A Row is one line of a paper.
type Row struct {
	SKU, Description, Lot, Quantity, Unit, Note string
}

// A Group is the rows under one heading, such as a carton.
type Group struct {
	Heading string
	Rows    []Row
}

// A Note is a packing slip, a delivery note or an order.
type Note struct {
	// Order says what it is about, such as an order's number.
	Title, Number, Order, Reference, Date, From, To, Address, Carrier string
	Groups                                                            []Group
	// Open lists what is still to come; Foot is what stands under it all.
	Open []Row
	Foot []string
	// Code is a number that stands on its first page as a Data Matrix too, to be scanned.
	Code string
	// Label is printed behind it, to be cut out.
	Label *ReturnLabel
}

// A4 page measures in millimetres.
const (
	left, right, top, bottom = 18.0, 192.0, 22.0, 275.0
)

// Print makes the note on A4.
func (n Note) Print() ([]byte, error) {
	s := newSheet(210, 297)
	y := n.head(s)
	if n.Code != "" {
		if _, err := s.matrix(right-18, top+6, 8, n.Code, false); err != nil {
			return nil, err
		}
	}
	line := func(height float64) {
		if y += height; y > bottom {
			y = n.head(s) + height
		}
	}
	rows := func(rows []Row) {
		for _, r := range rows {
			line(6.5)
			s.say(left, y, 10, "B", r.SKU)
			s.say(left+34, y, 10, "", r.Description)
			s.say(left+112, y, 9, "", r.Lot)
			s.sayRight(right-14, y, 10, "B", r.Quantity)
			s.say(right-12, y, 9, "", r.Unit)
			for _, part := range wrap(r.Note, 95) {
				line(5)
				s.say(left+34, y, 8.5, "", part)
			}
		}
	}
	for _, g := range n.Groups {
		line(11)
		s.say(left, y, 11, "B", g.Heading)
		s.pdf.Line(left, y+1.8, right, y+1.8)
		rows(g.Rows)
	}
	if len(n.Open) > 0 {
		line(14)
		s.say(left, y, 11, "B", "Still to come")
		s.pdf.Line(left, y+1.8, right, y+1.8)
		rows(n.Open)
	}
	if len(n.Foot) > 0 {
		line(8)
		s.pdf.Line(left, y-2, right, y-2)
	}
	for _, text := range n.Foot {
		for _, part := range wrap(text, 100) {
			line(5.5)
			s.say(left, y, 10, "", part)
		}
	}
	if n.Label != nil {
		if err := n.Label.cutOut(s); err != nil {
			return nil, err
		}
	}
	return s.bytes()
}

func (n Note) head(s *Sheet) float64 {
	s.pdf.AddPage()
	s.say(left, top, 18, "B", n.Title+" "+n.Number)
	s.sayRight(right, top, 10, "", n.Date)
	s.say(left, top+8, 10, "", "From "+n.From)
	s.say(left, top+16, 12, "B", n.To)
	s.say(left, top+22, 10, "", n.Address)
	detail := n.Order
	if n.Reference != "" {
		detail += ", your number " + n.Reference
	}
	if n.Carrier != "" {
		detail += ", with " + n.Carrier
	}
	s.say(left, top+30, 10, "", detail)
	s.sayRight(right, bottom+10, 8, "", fmt.Sprintf("page %d", s.pdf.PageNo()))
	return top + 32
}
