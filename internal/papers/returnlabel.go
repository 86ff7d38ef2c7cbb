package papers

// A ReturnLabel is stuck on a carton that comes back: where it goes, and its return's number, also as a Data Matrix.
type ReturnLabel struct {
	Number, From, Address, To, SendBy string
}

// The size of a label in millimetres.
const labelWidth, labelHeight = 105.0, 74.0

// Print makes the label alone, for a printer of labels.
func (l ReturnLabel) Print() ([]byte, error) {
	s := newSheet(labelWidth, labelHeight)
	s.pdf.AddPage()
	if err := l.draw(s, 0, 0); err != nil {
		return nil, err
	}
	return s.bytes()
}

// cutOut draws it on a page of its own behind a paper, to be cut out and stuck on.
func (l ReturnLabel) cutOut(s *Sheet) error {
	s.pdf.AddPage()
	s.say(left, top, 10, "", "Cut it out, and stick it on the carton. Cover other codes that are on it.")
	s.pdf.SetDashPattern([]float64{2, 2}, 0)
	s.pdf.Rect(left, top+6, labelWidth, labelHeight, "D")
	s.pdf.SetDashPattern([]float64{}, 0)
	return l.draw(s, left, top+6)
}

func (l ReturnLabel) draw(s *Sheet, x, y float64) error {
	s.say(x+6, y+9, 9, "", clip("From "+l.From, 56))
	s.within(x+6, y+13.5, 92, 8, l.Address, 2)
	s.pdf.Line(x+6, y+21, x+99, y+21)
	s.say(x+6, y+29, 9, "", "Return to")
	s.say(x+6, y+36, 15, "B", clip(l.To, 30))
	s.say(x+6, y+56, 20, "B", l.Number)
	s.say(x+6, y+64, 9, "", "send it by "+l.SendBy)
	_, err := s.matrix(x+73, y+42, 12, l.Number, false)
	return err
}
