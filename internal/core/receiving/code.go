package receiving

import (
	"strings"

	"lanternrow/internal/core/gs1"
	"lanternrow/internal/core/refusal"
)

// Codes are what names an item as a whole, and therefore none of its lots or units.
type Codes struct {
	SKU   string
	GTINs []string
}

// CheckTracked refuses a code that is no lot or serial, which what names: a whole GS1 label, or
// what names the item itself.
func (c Codes) CheckTracked(field, what, code string) error {
	if gs1.Looks(code) {
		return refusal.New(refusal.LabelWhole, field,
			"%q is a whole GS1 label, no %s. Scan it where the cursor stands in the %s, or type what it says.",
			clip(code), what, what)
	}
	if !c.name(code) {
		return nil
	}
	return refusal.New(refusal.OwnCode, field, "%s is the item %s itself, no %s of it. Scan the %s on the goods.",
		clip(code), c.SKU, what, what)
}

// name tells whether code is the item's SKU or one of its GTINs.
func (c Codes) name(code string) bool {
	return strings.EqualFold(strings.TrimSpace(code), c.SKU) || c.HasGTIN(code)
}

// HasGTIN tells whether code is one of the item's GTINs, however many digits wide.
func (c Codes) HasGTIN(code string) bool {
	gtin, err := gs1.GTIN("", code)
	if err != nil {
		return false
	}
	for _, own := range c.GTINs {
		if wide, err := gs1.GTIN("", own); err == nil && wide == gtin {
			return true
		}
	}
	return false
}
