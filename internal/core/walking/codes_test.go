package walking

import "lanternrow/internal/core/refusal"

func codeOf(err error) string {
	if r := refusal.From(err); r != nil {
		return r.Code
	}
	return ""
}
