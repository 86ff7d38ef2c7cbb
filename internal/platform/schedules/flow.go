package schedules

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/timetable"
	"lanternrow/internal/documents"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// Wish is a schedule as it is set up.
type Wish struct {
	SiteID   int32          `json:"site_id"`
	Task     string         `json:"task" maxLength:"40"`
	Rule     timetable.Rule `json:"rule"`
	Settings Settings       `json:"settings"`
}

// Outlook says when a schedule runs next, and what it would do if it ran now.
type Outlook struct {
	When  string      `json:"when"`
	Next  []time.Time `json:"next"`
	Would Work        `json:"would"`
	// Stops says why it would stop; empty when nothing keeps it.
	Stops string `json:"stops"`
}

// ahead is how many times to come an outlook names.
const ahead = 3

// outlook calculates what a schedule will do.
func (e *Engine) outlook(ctx context.Context, q sqlx.QueryerContext, in Wish, now time.Time) (Outlook, error) {
	out := Outlook{When: in.Rule.Words(), Next: []time.Time{}}
	task, err := e.task(in.Task)
	if err != nil {
		return out, err
	}
	p, err := people.Acting(ctx)
	if err != nil {
		return out, err
	}
	if err := task.may(p); err != nil {
		return out, err
	}
	clock, err := catalog.ClockOf(ctx, q, in.SiteID)
	if err != nil {
		return out, err
	}
	at := now
	for range ahead {
		if at, err = in.Rule.Next(at, clock); err != nil {
			return out, err
		}
		out.Next = append(out.Next, at)
	}
	out.Would, err = task.Preview(ctx, q, in.SiteID, in.Settings, now)
	if r := refusal.From(err); r != nil {
		out.Stops, err = r.Sentence, nil
	}
	if out.Would.Documents == nil {
		out.Would.Documents = []string{}
	}
	return out, err
}

// nextOf is when a rule is next due by a site's clock.
func nextOf(ctx context.Context, q sqlx.QueryerContext, site int32, rule []byte, now time.Time) (time.Time, error) {
	r, err := readRule(rule)
	if err != nil {
		return time.Time{}, err
	}
	clock, err := catalog.ClockOf(ctx, q, site)
	if err != nil {
		return time.Time{}, err
	}
	return r.Next(now, clock)
}

// Create sets a schedule up: it acts for the person who does.
func (e *Engine) Create(ctx context.Context, tx *command.Tx, in Wish) (Schedule, error) {
	if err := tx.At(ctx, in.SiteID); err != nil {
		return Schedule{}, err
	}
	rule, settings, next, err := e.checked(ctx, tx, in)
	if err != nil {
		return Schedule{}, err
	}
	var id int64
	err = tx.GetContext(ctx, &id, `
		INSERT INTO schedules (site_id, task, rule, settings, next_at, changed_by, changed_at, last_change)
		VALUES ($1, $2, $3, $4, $5, $6, $7, 'set it up') RETURNING id`,
		in.SiteID, in.Task, rule, settings, next, tx.Person.ID, tx.Now)
	if err != nil {
		return Schedule{}, fmt.Errorf("writing a schedule: %w", err)
	}
	tx.NotifySite(in.SiteID, "schedules")
	return e.read(ctx, tx, id)
}

// checked reads a wish, and when it is due first.
func (e *Engine) checked(
	ctx context.Context, tx *command.Tx, in Wish,
) (rule, settings string, next time.Time, err error) {
	task, err := e.task(in.Task)
	if err != nil {
		return "", "", next, err
	}
	if err := task.may(tx.Person); err != nil {
		return "", "", next, err
	}
	text, err := json.Marshal(in.Rule)
	if err != nil {
		return "", "", next, fmt.Errorf("writing a rule: %w", err)
	}
	set, err := json.Marshal(in.Settings)
	if err != nil {
		return "", "", next, fmt.Errorf("writing settings: %w", err)
	}
	next, err = nextOf(ctx, tx, in.SiteID, text, tx.Now)
	return string(text), string(set), next, err
}

// Change sets a schedule up anew: from now on it acts for the person who does, and goes on
// where it was stopped or paused.
func (e *Engine) Change(ctx context.Context, tx *command.Tx, id int64, version int32, in Wish) (Schedule, error) {
	if _, err := e.change(ctx, tx, id, version, "changed it"); err != nil {
		return Schedule{}, err
	}
	rule, settings, next, err := e.checked(ctx, tx, in)
	if err != nil {
		return Schedule{}, err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE schedules SET task = $2, rule = $3, settings = $4, state = 'on', stopped = '', next_at = $5,
		failures = 0, retry_at = NULL, trouble = '' WHERE id = $1`, id, in.Task, rule, settings, next); err != nil {
		return Schedule{}, fmt.Errorf("changing a schedule: %w", err)
	}
	tx.NotifySite(in.SiteID, "schedules")
	return e.read(ctx, tx, id)
}

// States that a schedule can be put into.
const (
	Resumed = "on"
	Paused  = "paused"
	Removed = "removed"
)

// Put pauses a schedule, resumes it for the person who does, or removes it. What it did
// stays in the papers that it made.
func (e *Engine) Put(ctx context.Context, tx *command.Tx, id int64, version int32, state string) (Schedule, error) {
	s, err := e.change(ctx, tx, id, version, map[string]string{Resumed: "resumed it", Paused: "paused it",
		Removed: "removed it"}[state])
	if err != nil {
		return s, err
	}
	var next *time.Time
	if state == Resumed {
		task, err := e.task(s.Task)
		if err != nil {
			return s, err
		}
		if err := task.may(tx.Person); err != nil {
			return s, err
		}
		at, err := nextOf(ctx, tx, s.SiteID, s.RuleText, tx.Now)
		if err != nil {
			return s, err
		}
		next = &at
	}
	if _, err := tx.ExecContext(ctx, `UPDATE schedules SET state = $2, stopped = '', next_at = $3,
		failures = 0, retry_at = NULL, trouble = '' WHERE id = $1`, id, state, next); err != nil {
		return s, fmt.Errorf("changing a schedule: %w", err)
	}
	tx.NotifySite(s.SiteID, "schedules")
	return e.read(ctx, tx, id)
}

// change notes that a schedule is being changed by somebody who may.
func (e *Engine) change(ctx context.Context, tx *command.Tx, id int64, version int32, what string) (Schedule, error) {
	if err := documents.Change(ctx, tx, documents.Schedule, id, version, what); err != nil {
		return Schedule{}, err
	}
	s, err := e.read(ctx, tx, id)
	if err == nil && s.State == Removed {
		return s, refusal.New(refusal.ScheduleRemoved, "", "%s is removed. Set up another.",
			s.Number).Of(refusal.Conflict)
	}
	return s, err
}

// RunNow does a schedule's task at once, besides its times.
func (e *Engine) RunNow(ctx context.Context, tx *command.Tx, id int64) (Schedule, error) {
	var list []due
	if err := tx.SelectContext(ctx, &list, `
		SELECT id, site_id, task, rule, settings FROM schedules WHERE id = $1 AND state <> 'removed' FOR UPDATE`,
		id); err != nil {
		return Schedule{}, fmt.Errorf("holding a schedule: %w", err)
	}
	if len(list) == 0 {
		return Schedule{}, documents.Missing("schedule", fmt.Sprint(id))
	}
	if err := tx.At(ctx, list[0].SiteID); err != nil {
		return Schedule{}, err
	}
	work, err := e.do(ctx, tx, list[0])
	if err != nil {
		return Schedule{}, err
	}
	if err := note(ctx, tx, id, nil, work); err != nil {
		return Schedule{}, err
	}
	tx.NotifySite(list[0].SiteID, "schedules")
	return e.read(ctx, tx, id)
}

// tasksOf are the tasks that a person may set up.
func (e *Engine) tasksOf(p people.Person) []Task {
	out := []Task{}
	for _, t := range e.tasks {
		if t.may(p) == nil {
			out = append(out, t)
		}
	}
	return out
}
