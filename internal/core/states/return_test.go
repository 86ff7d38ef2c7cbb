package states

import (
	"testing"

	"github.com/shopspring/decimal"
)

func TestHowFarAReturnIs(t *testing.T) {
	n := decimal.NewFromInt
	for _, c := range []struct {
		order                   Inbound
		kept, received, decided int64
		settled                 bool
		want                    Return
	}{
		{Draft, 0, 0, 0, false, ReturnAsked},
		{Placed, 0, 0, 0, false, ReturnAnnounced},
		{Placed, 0, 0, 0, true, ReturnAnnounced},
		{Closed, 0, 0, 0, false, ReturnWithdrawn},
		{Closed, 3, 0, 0, false, ReturnDecided},
		{Closed, 3, 0, 0, true, ReturnSettled},
		{PartlyReceived, 0, 2, 0, false, ReturnPartlyReceived},
		{PartlyReceived, 0, 2, 2, true, ReturnPartlyReceived},
		{Received, 0, 4, 2, true, ReturnReceived},
		{Closed, 0, 2, 2, false, ReturnDecided},
		{Received, 0, 4, 4, false, ReturnDecided},
		{Received, 0, 4, 4, true, ReturnSettled},
	} {
		if got := ReturnOf(c.order, n(c.kept), n(c.received), n(c.decided), c.settled); got != c.want {
			t.Errorf("%+v is %s", c, got)
		}
	}
}
