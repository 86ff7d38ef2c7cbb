package allocation

import "sort"

// Withdrawal puts holdings into the order in which stock is offered for reserving by hand:
// those in picking zones first, those in the item's usual bins next, all others last;
// within each the earliest expiry or arrival first, then the least walk, then by bin.
// What is left of a lot's life stands in the way here too: those too old come last of all.
func Withdrawal(stock []Stock, notBefore string) {
	class := func(s Stock) int {
		switch {
		case s.Expires != "" && s.Expires < notBefore:
			return 3
		case s.Picking:
			return 0
		case s.Usual:
			return 1
		}
		return 2
	}
	sort.SliceStable(stock, func(i, j int) bool {
		a, b := stock[i], stock[j]
		switch {
		case class(a) != class(b):
			return class(a) < class(b)
		case a.rank().date != b.rank().date:
			return a.rank().date < b.rank().date
		case a.WalkM != b.WalkM:
			return a.WalkM < b.WalkM
		}
		return a.Bin < b.Bin
	})
}
