package database

import (
	"fmt"
	"strconv"
	"strings"
)

// Texts reads an array of texts without commas, quotes or braces as PostgreSQL writes it: {a,b}.
func Texts(src any) ([]string, error) {
	text, ok := src.(string)
	if !ok {
		return nil, fmt.Errorf("reading texts: %T is no array", src)
	}
	if text = strings.Trim(text, "{}"); text == "" {
		return []string{}, nil
	}
	return strings.Split(text, ","), nil
}

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
