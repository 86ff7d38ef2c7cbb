package documents

import (
	"context"
	"fmt"

	"lanternrow/internal/core/states"
	"lanternrow/internal/platform/command"
)

// Step moves documents to another state, and sets what else that brings: assignments in
// SQL, their arguments from $4 on. It is the one writer of a state after a document was
// made. A document from whose state there is no such step is a states.StepError, and none
// is moved. The documents are held alone.
func Step[S ~string](
	ctx context.Context, tx *command.Tx, d states.Document, ids []int64, to S, also string, args ...any,
) error {
	if len(ids) == 0 {
		return nil
	}
	if also != "" {
		also = ", " + also
	}
	var done struct {
		Moved int
		From  string
	}
	err := tx.GetContext(ctx, &done, fmt.Sprintf(`
		WITH moved AS (
			UPDATE %[1]s
			   SET state = $2%[3]s
			 WHERE %[2]s = ANY ($1) AND state = ANY ($3)
			RETURNING 1)
		SELECT (SELECT count(*) FROM moved) AS moved,
		       coalesce((SELECT min(state) FROM %[1]s WHERE %[2]s = ANY ($1) AND state <> ALL ($3)), '') AS from`,
		d, d.Key(), also), append([]any{ids, to, states.Before(d, to)}, args...)...)
	if err != nil {
		return fmt.Errorf("moving %s to %q: %w", d, to, err)
	}
	if done.Moved != len(ids) {
		return &states.StepError{Document: d, From: done.From, To: string(to)}
	}
	return nil
}
