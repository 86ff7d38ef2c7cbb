package papers

// A Badge is what somebody signs on with in the hand: its code, also as a Data Matrix, on a card of ID-1's size
// (ISO/IEC 7810).
type Badge struct{ Name, Roles, Site, Code string }

const cardWidth, cardHeight = 85.6, 53.98

// Print makes the card.
func (b Badge) Print() ([]byte, error) {
	s := newSheet(cardWidth, cardHeight)
	s.pdf.AddPage()
	s.say(6, 10, 9, "", clip(b.Site, 44))
	s.pdf.Line(6, 13, cardWidth-6, 13)
	s.within(6, 22, 46, 16, b.Name, 2)
	s.say(6, 41, 10, "", clip(b.Roles, 24))
	s.say(6, 48, 12, "B", b.Code)
	if _, err := s.matrix(56, 18, 12, b.Code, false); err != nil {
		return nil, err
	}
	return s.bytes()
}
