package database

import (
	"fmt"
	"strconv"
	"strings"
)

// Integers reads an array of integers as PostgreSQL writes it: {1,2}. It is for those that are scanned as a column.
func Integers(src any) ([]int32, error) {
	text, ok := src.(string)
	if !ok {
		return nil, fmt.Errorf("reading integers: %T is no array", src)
	}
	out := []int32{}
	for part := range strings.SplitSeq(strings.Trim(text, "{}"), ",") {
		if part == "" {
			continue
		}
		n, err := strconv.ParseInt(part, 10, 32)
		if err != nil {
			return nil, fmt.Errorf("reading integers: %w", err)
		}
		out = append(out, int32(n))
	}
	return out, nil
}
