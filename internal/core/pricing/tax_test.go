package pricing

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
)

func money(text string) decimal.Decimal { return decimal.RequireFromString(text) }

// TestTaxIsCalculatedOnceForEachRate holds sums that can be followed by hand, and for any
// amounts: the order of lines and their split change nothing, and what is taken back comes to
// what was asked.
func TestTaxIsCalculatedOnceForEachRate(t *testing.T) {
	taxes := Taxes([]Taxable{{money("10.02"), money("20")}, {money("10.02"), money("20")}, {money("5.55"), money("7")},
		{money("3"), money("0")}})
	net, gross := Totals(taxes)
	// 20.04 at 20 % are 4.008, so 4.01, where line by line it would be 2.00 twice.
	if len(taxes) != 3 || taxes[2].Amount.String() != "4.01" || taxes[1].Amount.String() != "0.39" ||
		net.String() != "28.59" || gross.String() != "32.99" {
		t.Fatalf("%+v: %s and %s", taxes, net, gross)
	}
	r := rand.New(rand.NewPCG(16, 931))
	rates := []string{"0", "5.5", "7", "19", "20"}
	for range 500 {
		var lines, split, back []Taxable
		for range 1 + r.IntN(8) {
			cents := r.Int64N(100_000)
			rate := money(rates[r.IntN(len(rates))])
			part := r.Int64N(cents + 1)
			lines = append(lines, Taxable{decimal.New(cents, -2), rate})
			split = append(split, Taxable{decimal.New(part, -2), rate}, Taxable{decimal.New(cents-part, -2), rate})
			back = append(back, Taxable{decimal.New(-cents, -2), rate})
		}
		r.Shuffle(len(split), func(i, j int) { split[i], split[j] = split[j], split[i] })
		net, gross := Totals(Taxes(lines))
		net2, gross2 := Totals(Taxes(split))
		net3, gross3 := Totals(Taxes(back))
		if !net.Equal(net2) || !gross.Equal(gross2) || !net.Equal(net3.Neg()) || !gross.Equal(gross3.Neg()) {
			t.Fatalf("%v: %s, %s; split %s, %s; back %s, %s", lines, net, gross, net2, gross2, net3, gross3)
		}
	}
}

// TestWhatStandsUnderAmountsAddsUp draws amounts at three rates and reads the words under them: each
// tax is on its own sum, and what is before tax and the taxes come to the total.
func TestWhatStandsUnderAmountsAddsUp(t *testing.T) {
	r := rand.New(rand.NewPCG(19, 7))
	figure := func(line string) decimal.Decimal {
		return decimal.RequireFromString(line[strings.LastIndex(line, " ")+1:])
	}
	for range 500 {
		var amounts []Taxable
		for range 1 + r.IntN(12) {
			amounts = append(amounts, Taxable{Amount: decimal.New(r.Int64N(90_000)-9_000, -2),
				Pct: decimal.NewFromInt([]int64{0, 7, 19}[r.IntN(3)])})
		}
		words := Words(Taxes(amounts))
		total := figure(words[len(words)-1])
		if len(words) == 1 {
			for _, a := range amounts {
				total = total.Sub(a.Amount)
			}
			if !total.IsZero() {
				t.Fatalf("%v: %q", amounts, words)
			}
			continue
		}
		sum := figure(words[0])
		for _, line := range words[1 : len(words)-1] {
			if !strings.HasPrefix(line, "Tax of ") {
				t.Fatalf("%q stands among the taxes", line)
			}
			sum = sum.Add(figure(line))
		}
		if !sum.Equal(total) {
			t.Fatalf("%v: %q come to %s", amounts, words, sum)
		}
	}
}
