package documents_test

import (
	"testing"

	"lanternrow/internal/documents"
)

func TestAPlaceInAListIsReadBackOrRefused(t *testing.T) {
	t.Parallel()
	keys := map[string]documents.SortKey{"day": {Expr: "o.day", Type: "date"}, "sum": {Expr: "o.sum", Type: "numeric"},
		"name": {Expr: "o.name", Type: "text"}}
	for key, value := range map[string]string{"day": "2027-12-31", "sum": "12.50", "name": `Tarn: "Tackle" & Söhne`} {
		s, err := documents.SortBy(keys, key, true, documents.PlaceAfter(value, 17))
		if err != nil || s.First() {
			t.Fatalf("%s: %v", key, err)
		}
		if args := s.Args(); args[0] != value || args[1] != int64(17) {
			t.Errorf("%s: %v", key, args)
		}
	}
	for key, after := range map[string]string{"day": documents.PlaceAfter("soon", 1), "sum": documents.PlaceAfter("much", 1),
		"name": "not a place"} {
		if _, err := documents.SortBy(keys, key, false, after); err == nil {
			t.Errorf("%s: %s was taken for a place", key, after)
		}
	}
}
