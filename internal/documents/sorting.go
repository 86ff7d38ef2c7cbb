package documents

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"time"

	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// A SortKey is what a list of orders can be sorted by: an expression over its rows, of
// which the order is called o, and its type, which is text, date, timestamptz, bigint or
// numeric.
type SortKey struct{ Expr, Type string }

// A Sorting is how a list is sorted, and where the page that is asked for begins. Among
// rows of one key the order's id decides, so that no row is shown twice or left out.
type Sorting struct {
	Key  SortKey
	Down bool
	from *sortPlace
}

// sortPlace is the row behind which a page begins.
type sortPlace struct {
	Value string `json:"v"`
	ID    int64  `json:"id"`
}

// SortBy reads how a list is sorted: by the key of a name, from the place after, which
// PlaceAfter made, or from the start where after is empty.
func SortBy(keys map[string]SortKey, name string, down bool, after string) (Sorting, error) {
	s := Sorting{Key: keys[name], Down: down}
	if after == "" {
		return s, nil
	}
	place, err := readPlace[sortPlace](after)
	if err == nil && !s.Key.holds(place.Value) {
		err = noPlace(after)
	}
	s.from = place
	return s, err
}

// readPlace reads a place in a list, which placeText wrote.
func readPlace[P any](after string) (*P, error) {
	place := new(P)
	text, err := base64.RawURLEncoding.DecodeString(after)
	if err == nil {
		err = json.Unmarshal(text, place)
	}
	if err != nil {
		return nil, noPlace(after)
	}
	return place, nil
}

func noPlace(after string) error {
	return refusal.New(refusal.CursorMalformed, "after", "%q is not a location in the list.", after)
}

// placeText words a place in a list, for whoever asks for the next page.
func placeText[P any](place P) string {
	text, _ := json.Marshal(place)
	return base64.RawURLEncoding.EncodeToString(text)
}

// timeLayouts are how the database writes a moment as text, with the zone in hours, or in minutes too.
var timeLayouts = []string{"2006-01-02 15:04:05-07", "2006-01-02 15:04:05-07:00"}

// holds tells whether text is a value of the key's type.
func (k SortKey) holds(text string) (ok bool) {
	switch k.Type {
	case "date":
		_, err := time.Parse(time.DateOnly, text)
		return err == nil
	case "timestamptz":
		return slices.ContainsFunc(timeLayouts, func(layout string) bool {
			_, err := time.Parse(layout, text)
			return err == nil
		})
	case "bigint":
		_, err := strconv.ParseInt(text, 10, 64)
		return err == nil
	case "numeric":
		_, err := decimal.NewFromString(text)
		return err == nil
	}
	return true
}

// PlaceAfter words the place behind a row, for whoever asks for the next page.
func PlaceAfter(value string, id int64) string {
	return placeText(sortPlace{value, id})
}

// First tells whether the page is the first of its list.
func (s Sorting) First() bool { return s.from == nil }

// Where is the condition that a page's rows keep, as SQL over two parameters from the
// number given on, which Args returns.
func (s Sorting) Where(parameter int) string {
	compare := ">"
	if s.Down {
		compare = "<"
	}
	return fmt.Sprintf("($%d::text IS NULL OR (%s, o.id) %s ($%d::text::%s, $%d::bigint))", parameter, s.Key.Expr,
		compare, parameter, s.Key.Type, parameter+1)
}

// Args are the parameters of Where.
func (s Sorting) Args() []any {
	if s.from == nil {
		return []any{nil, nil}
	}
	return []any{s.from.Value, s.from.ID}
}

// OrderBy is the order of the list, as SQL.
func (s Sorting) OrderBy() string {
	if s.Down {
		return s.Key.Expr + " DESC, o.id DESC"
	}
	return s.Key.Expr + ", o.id"
}
