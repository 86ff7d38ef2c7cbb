package valuation

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
)

// TestWhatAnAccountingToolMakesOfIt has beancount 2.3, a general plain-text accounting tool, book a hundred purchases
// and sales first in, first out: what is left at cost, and what all that went cost, are the same.
func TestWhatAnAccountingToolMakesOfIt(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 9))
	day := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	journal := new(strings.Builder)
	fmt.Fprintf(journal, "2026-01-01 open Assets:Stock PIECES \"FIFO\"\n2026-01-01 open Equity:Bought\n2026-01-01 open Expenses:Gone\n")
	var flows []Flow
	held := int64(0)
	for n := range 100 {
		day = day.AddDate(0, 0, 1)
		if quantity := 1 + r.Int64N(40); held > quantity && r.IntN(2) == 0 {
			held -= quantity
			flows = append(flows, Flow{Quantity: decimal.NewFromInt(-quantity)})
			fmt.Fprintf(journal, "%s * \"sold\"\n  Assets:Stock  -%d PIECES {}\n  Expenses:Gone\n", day.Format(time.DateOnly), quantity)
		} else {
			held += quantity
			cost := decimal.New(100+r.Int64N(9000), -2)
			flows = append(flows, Flow{decimal.NewFromInt(quantity), cost})
			fmt.Fprintf(journal, "%s * \"bought %d\"\n  Assets:Stock  %d PIECES {%s EUR}\n  Equity:Bought\n", day.Format(time.DateOnly), n,
				quantity, cost.StringFixed(2))
		}
	}
	ours, _, err := FIFO(flows)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "stock.beancount")
	if err := os.WriteFile(file, []byte(journal.String()), 0o600); err != nil {
		t.Fatal(err)
	}
	for account, due := range map[string]decimal.Decimal{"Assets:Stock": ours.Value, "Expenses:Gone": ours.Gone} {
		printed, err := exec.Command("bean-query", "-q", "-f", "csv", file,
			fmt.Sprintf(`SELECT sum(cost(position)) AS cost WHERE account = "%s"`, account)).CombinedOutput()
		if err != nil {
			t.Fatalf("bean-query (apt-get install beancount): %v\n%s", err, printed)
		}
		fields := strings.Fields(string(printed))
		if len(fields) < 2 {
			t.Fatalf("%s", printed)
		}
		if theirs, err := decimal.NewFromString(strings.Trim(fields[1], `"`)); err != nil || !theirs.Equal(due) {
			t.Errorf("%s comes to %s, and beancount says %s", account, due, printed)
		}
	}
}
