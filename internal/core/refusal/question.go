package refusal

import "slices"

// Question makes a refusal that whoever asks may answer with yes: they ask again, with its code
// among those they are Sure of. Its fact "sure" is that code.
func Question(code Code, field, format string, args ...any) *Refusal {
	return New(code, field, format, args...).Of(Conflict).With("sure", code)
}

// Sure are the questions that were answered with yes beforehand.
type Sure []Code

// Ask is a question, unless it does not stand or was answered with yes.
func (s Sure) Ask(stands bool, question *Refusal) error {
	if !stands || slices.Contains(s, question.Code) {
		return nil
	}
	return question
}
