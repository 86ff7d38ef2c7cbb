package people

import (
	"fmt"
	"testing"
)

// TestSitesAreReadAsTheDatabaseWritesThem: none is all of them, and what is no array is an error and not everywhere.
func TestSitesAreReadAsTheDatabaseWritesThem(t *testing.T) {
	for text, want := range map[string]string{"{}": "[]", "{2}": "[2]", "{1,3,12}": "[1 3 12]"} {
		var s Sites
		if err := s.Scan(text); err != nil || fmt.Sprint(s) != want {
			t.Errorf("%s is read as %v: %v", text, s, err)
		}
		if p := (Person{Sites: s}); p.Restricted() != (text != "{}") {
			t.Errorf("%s restricts: %v", text, p.Restricted())
		}
	}
	for _, wrong := range []any{"{a}", "{1,}x", nil, 7} {
		var s Sites
		if err := s.Scan(wrong); err == nil {
			t.Errorf("%v is read as %v", wrong, s)
		}
	}
}
