package people

import (
	"context"

	"lanternrow/internal/core/refusal"
)

// Decide lets a lead accept what would be refused, by saying why. Without a question
// there is nothing to decide; without a reason the question stands.
func Decide(ctx context.Context, field, reason string, question error) error {
	if question == nil || reason == "" {
		return question
	}
	person, err := Acting(ctx)
	if err != nil {
		return err
	}
	leads, err := person.MayLead()
	if err != nil {
		return err
	}
	if !leads {
		return refusal.New(refusal.LeadDecides, field+".reason", "Only a lead may accept this. %s",
			refusal.From(question).Sentence).Of(refusal.Forbidden)
	}
	if SaysTooLittle(reason) {
		return refusal.New(refusal.ReasonShort, field+".reason",
			"%q says too little. Write in a few words why it is accepted; it stays in the trail.", reason)
	}
	return nil
}

// SaysTooLittle tells whether a reason is no reason: it stays in the trail, and has to
// say something.
func SaysTooLittle(reason string) bool { return len([]rune(reason)) < 4 }
