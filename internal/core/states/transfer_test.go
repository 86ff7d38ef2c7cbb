package states

import (
	"testing"

	"github.com/shopspring/decimal"
)

// TestATransferIsAsFarAsItsHalves, for every state of the first half and every count of the second.
func TestATransferIsAsFarAsItsHalves(t *testing.T) {
	for _, c := range []struct {
		first                        Outbound
		shipped, received, otherwise int64
		want                         Transfer
	}{
		{OnHold, 0, 0, 0, TransferOnHold},
		{Released, 0, 0, 0, TransferReleased},
		{Released, 8, 0, 0, TransferPartlyShipped},
		{Released, 8, 8, 0, TransferPartlyShipped},
		{OnHold, 8, 3, 0, TransferPartlyShipped},
		{Shipped, 8, 0, 0, TransferInTransit},
		{Shipped, 8, 5, 0, TransferPartlyReceived},
		{Shipped, 8, 8, 0, TransferReceived},
		{Shipped, 8, 0, 3, TransferInTransit},
		{Shipped, 8, 5, 2, TransferPartlyReceived},
		{Shipped, 8, 5, 3, TransferClosed},
		{Shipped, 8, 0, 8, TransferClosed},
		{Cancelled, 0, 0, 0, TransferCancelled},
	} {
		got := TransferOf(c.first, decimal.NewFromInt(c.shipped), decimal.NewFromInt(c.received), decimal.NewFromInt(c.otherwise))
		if got != c.want {
			t.Errorf("%s with %d shipped, %d received and %d settled otherwise is %s, want %s", c.first, c.shipped, c.received,
				c.otherwise, got, c.want)
		}
	}
	// While nothing more comes or goes, it never falls back.
	order := map[Transfer]int{TransferInTransit: 1, TransferPartlyReceived: 2, TransferReceived: 3}
	for shipped := int64(1); shipped < 12; shipped++ {
		before := 0
		for received := int64(0); received <= shipped; received++ {
			now := order[TransferOf(Shipped, decimal.NewFromInt(shipped), decimal.NewFromInt(received), decimal.Zero)]
			if now < before || now == 0 {
				t.Fatalf("%d of %d received comes before what it was", received, shipped)
			}
			before = now
		}
	}
}
