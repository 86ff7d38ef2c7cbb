package demo

// dues write down what customers owe: one has not paid in time, another may owe only so
// much.
func (s *story) dues() {
	s.sheet("customers", []string{"code", "overdue", "credit_limit", "in_parts"}, []string{"TNT", "412.50", "", "yes"},
		[]string{"HAR", "0", "5000", "no"})
}
