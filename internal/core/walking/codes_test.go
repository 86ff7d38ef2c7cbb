package walking

import "lanternrow/internal/core/refusal"

func codeOf(err error) refusal.Code {
	if r := refusal.From(err); r != nil {
		return r.Code
	}
	return ""
}
