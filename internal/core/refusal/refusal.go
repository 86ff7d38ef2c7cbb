// Package refusal carries a "no" from a rule of the job to the person who asked.
//
// A refusal is not a failure of the program: it says what is wrong with what was
// asked, with the numbers, and what can be done. Nothing has been changed when
// one is returned.
package refusal

import (
	"errors"
	"fmt"
)

// A Refusal is a rule's answer to a request it will not carry out.
type Refusal struct {
	// Code is stable and meant for programs, for example "bin_full".
	Code Code
	// Field names the input the refusal is about, as a path in the request body
	// ("lines[2].quantity"); empty when it is about the whole.
	Field string
	// Sentence is what a person on the floor reads.
	Sentence string
	// Facts holds the numbers in the sentence, for programs.
	Facts map[string]string
	// Kind tells which family of answer it is.
	Kind Kind
}

// Kind sorts refusals by what the caller can do about them.
type Kind int

const (
	// Invalid input: correct the field and ask again.
	Invalid Kind = iota
	// Conflict with the present state of stock or of a document.
	Conflict
	// Missing: what was named is not known here.
	Missing
	// Forbidden for the role of the person who asks.
	Forbidden
	// SignedOut: nobody is signed on.
	SignedOut
	// TooMany attempts; wait.
	TooMany
	// Unavailable: the house cannot answer this moment; ask again later.
	Unavailable
	// Unsupported form of a request, such as a compressed body.
	Unsupported
	// TooLarge a body.
	TooLarge
)

func (r *Refusal) Error() string { return r.Sentence }

// New makes an Invalid refusal about field.
func New(code Code, field, format string, args ...any) *Refusal {
	return &Refusal{Code: code, Field: field, Sentence: fmt.Sprintf(format, args...)}
}

// Of gives the refusal another kind.
func (r *Refusal) Of(k Kind) *Refusal { r.Kind = k; return r }

// At names the field the refusal is about.
func (r *Refusal) At(field string) *Refusal { r.Field = field; return r }

// With adds a fact.
func (r *Refusal) With(name string, value any) *Refusal {
	if r.Facts == nil {
		r.Facts = map[string]string{}
	}
	r.Facts[name] = fmt.Sprint(value)
	return r
}

// At names the field that err is about where it is a refusal, and leaves any other error
// as it is.
func At(err error, field string) error {
	if r := From(err); r != nil {
		return r.At(field)
	}
	return err
}

// From finds the refusal in err's chain, or nil.
func From(err error) *Refusal {
	var r *Refusal
	if errors.As(err, &r) {
		return r
	}
	return nil
}
