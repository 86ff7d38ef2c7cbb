package resolving

import (
	"context"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/gs1"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
)

// A Part is what is asked of goods whose item is known already.
type Part string

// The parts that are asked one by one.
const (
	PartLot    Part = "lot"
	PartSerial Part = "serial"
	PartExpiry Part = "expiry"
)

// Parts are what was scanned or typed says of goods of one item; what it does not say is empty.
type Parts struct {
	Lot     string `json:"lot"`
	Serial  string `json:"serial"`
	Expires string `json:"expires" doc:"A day as 2027-12-31"`
}

// ReadPart reads the part that is asked for of an item's goods, out of a GS1 label or as it was
// typed, and with it the others that a label carries. It refuses a label of another item, one
// without the part, and what names the item itself.
func ReadPart(
	ctx context.Context, q sqlx.QueryerContext, item int32, asked Part, text string, today time.Time,
) (Parts, error) {
	text = strings.TrimSpace(text)
	of, err := catalog.ItemByID(ctx, q, item)
	if err != nil {
		return Parts{}, err
	}
	if gs1.Looks(text) {
		return readLabel(of, asked, text, today)
	}
	if asked == PartExpiry {
		_, err := documents.Day("text", text)
		return Parts{Expires: text}, err
	}
	if err := of.Codes().CheckTracked("text", string(asked), text); err != nil {
		return Parts{}, err
	}
	if asked == PartLot {
		return Parts{Lot: text}, nil
	}
	return Parts{Serial: text}, nil
}

// readLabel reads all parts of a GS1 label on the item's goods.
func readLabel(of catalog.Item, asked Part, text string, today time.Time) (Parts, error) {
	label, err := gs1.Parse("text", text, today)
	// A lot often stands in a symbol of its own, with the GTIN in another beside it.
	if r := refusal.From(err); err != nil && (r == nil || r.Code != refusal.GS1Required) {
		return Parts{}, err
	}
	if gtin := label.Value("01", "02"); gtin != "" && !of.Codes().HasGTIN(gtin) {
		return Parts{}, refusal.New(refusal.WrongItem, "text",
			"That label is of the GTIN %s, which is not %s. Scan the %s on a %s.", gtin, of.SKU, asked, of.SKU)
	}
	out := Parts{Lot: label.Value("10"), Serial: label.Value("21"), Expires: expiryOn(label)}
	if (map[Part]string{PartLot: out.Lot, PartSerial: out.Serial, PartExpiry: out.Expires})[asked] == "" {
		return out, refusal.New(refusal.LabelWithout, "text",
			"That label of %s has no %s. Scan the one that has, or type what stands on the goods.", of.SKU, asked)
	}
	return out, nil
}

// expiryOn is the day until which a label's goods are good; empty where it says none.
func expiryOn(label gs1.Message) string {
	if e := label.Find("17", "7003", "15"); e != nil && e.Date != nil {
		return e.Date.Format(time.DateOnly)
	}
	return ""
}
