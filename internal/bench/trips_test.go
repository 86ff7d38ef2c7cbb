package bench

import (
	"context"
	"os"
	"testing"

	"lanternrow/internal/test/world"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

// TestRoundTripsDoNotGrowWithLines runs commands on few and on many lines and cartons.
func TestRoundTripsDoNotGrowWithLines(t *testing.T) {
	t.Parallel()
	h, err := trace(context.Background(), world.Server(t))
	if err != nil {
		t.Fatal(err)
	}
	defer h.runner.DB.Close()
	// Statements are described to each connection when they are first sent.
	for range 2 {
		h.sale(2)
		h.amendment(2)
		h.purchase(2)
		h.receipt(2)
		h.shipment(2)
	}
	for name, pair := range map[string][2]Figure{
		"a sale":         {h.sale(3), h.sale(50)},
		"a changed sale": {h.amendment(3), h.amendment(50)},
		"a purchase":     {h.purchase(3), h.purchase(50)},
		"a receipt":      {h.receipt(3), h.receipt(50)},
		"a shipment":     {h.shipment(3), h.shipment(20)},
	} {
		if few, many := pair[0].Value, pair[1].Value; few == 0 || many > few {
			t.Errorf("%s takes %g round trips, and %g when it is larger", name, few, many)
		}
	}
	if h.err != nil {
		t.Fatal(h.err)
	}
}
