// Package schedules does on its own what repeats: at its times, for whoever set it up, and
// through the same doors as by hand. What it did is kept; what it can't do stops it, and
// says why.
package schedules

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/timetable"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// A Task is something that can be done on schedule.
type Task struct {
	// Name is stable; Title is what people read, Help what it does in a sentence.
	Name  string `json:"name"`
	Title string `json:"title"`
	Help  string `json:"help"`
	// Uses are the settings that it reads, by their names in JSON.
	Uses  []string     `json:"uses"`
	Roles people.Roles `json:"roles"`
	// Preview says what it would do now, Do does it.
	Preview func(ctx context.Context, q sqlx.QueryerContext, site int32, s Settings, now time.Time) (Work, error) `json:"-"`
	Do      func(ctx context.Context, tx *command.Tx, site int32, s Settings) (Work, error)                       `json:"-"`
}

// Settings are what tasks can be told; each reads those that it uses.
type Settings struct {
	Days       int     `json:"days,omitempty" minimum:"0" maximum:"365" doc:"What is wanted up to so many days from the day it runs on"`
	Carrier    string  `json:"carrier,omitempty" maxLength:"80" doc:"Only what goes with this carrier"`
	Ready      bool    `json:"ready,omitempty" doc:"Only orders of which all can go now"`
	Zone       string  `json:"zone,omitempty" maxLength:"20" doc:"Only from this zone"`
	Split      string  `json:"split,omitempty" enum:",walk,order,zone,one" doc:"How rounds are made"`
	MaxCartons int     `json:"max_cartons,omitempty" minimum:"0" maximum:"200" doc:"What a trolley takes; 0 is any number"`
	MaxKg      float64 `json:"max_kg,omitempty" minimum:"0" maximum:"10000" doc:"The most kg on a trolley; 0 is any weight"`
	MaxLines   int     `json:"max_lines,omitempty" minimum:"0" maximum:"1000" doc:"The most lines of a round; 0 is any number"`
	Mail       bool    `json:"mail,omitempty" doc:"Mail each invoice to its customer"`
}

// Until is the last day that the settings reach to, YYYY-MM-DD, by a site's clock.
func (s Settings) Until(ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time) (string, error) {
	clock, err := catalog.ClockOf(ctx, q, site)
	if err != nil {
		return "", err
	}
	return now.In(clock).AddDate(0, 0, s.Days).Format(time.DateOnly), nil
}

// Work is what a task does, or would do: nothing when it names no documents.
type Work struct {
	Words     string   `json:"words"`
	Documents []string `json:"documents" nullable:"false"`
}

// What came of a run.
const (
	did     = "did"
	nothing = "nothing"
	stopped = "stopped"
)

// An Engine runs what is due.
type Engine struct {
	runner *command.Runner
	tasks  []Task
}

// New makes an engine that knows these tasks.
func New(runner *command.Runner, tasks ...Task) *Engine {
	return &Engine{runner, tasks}
}

// beat is how often the engine looks whether something is due.
const beat = 5 * time.Second

// Run runs what is due until ctx ends.
func (e *Engine) Run(ctx context.Context) {
	tick := time.NewTicker(beat)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			if err := e.Due(ctx); err != nil && ctx.Err() == nil {
				slog.Error("schedules are not looked at", "error", err)
			}
		}
	}
}

// due is a schedule whose time has come.
type due struct {
	ID     int64
	SiteID int32 `db:"site_id"`
	Task   string
	Rule   []byte
	Set    []byte    `db:"settings"`
	NextAt time.Time `db:"next_at"`
	// Failures is how often it failed since it was last done.
	Failures int
}

const dueColumns = `SELECT id, site_id, task, rule, settings, next_at, failures FROM schedules `

// Due runs each schedule whose time has come, once, however many servers look at once.
// One that was due several times while no server ran is run once.
func (e *Engine) Due(ctx context.Context) error {
	var list []struct {
		due
		people.Person `db:"person"`
		Left          bool
	}
	err := e.runner.DB.SelectContext(ctx, &list, `
		SELECT s.id, s.site_id, s.task, s.rule, s.settings, s.next_at, s.failures,
		       p.id AS "person.id", p.name AS "person.name", p.login AS "person.login", p.roles AS "person.roles",
		       p.site_id AS "person.site_id", p.sites AS "person.sites", p.ended_at IS NOT NULL AS left
		  FROM schedules s JOIN people p ON p.id = s.changed_by
		 WHERE s.state = 'on' AND coalesce(s.retry_at, s.next_at) <= $1 ORDER BY s.next_at, s.id`, e.runner.Now())
	if err != nil {
		return fmt.Errorf("reading what is due: %w", err)
	}
	for _, d := range list {
		ctx := people.With(ctx, d.Person)
		if d.Left {
			if err := e.stop(ctx, d.due, d.Person.Name+", for whom this was done, left. Whoever changes it takes it over."); err != nil {
				return err
			}
			continue
		}
		_, err := command.Do(ctx, e.runner, "", "run-schedule", nil, func(ctx context.Context, tx *command.Tx) (bool,
			error) {
			return e.run(ctx, tx, d.due)
		})
		if err == nil {
			continue
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err := e.failed(ctx, d.due, err); err != nil {
			return err
		}
	}
	return nil
}

// failed stops a schedule that is refused, in the refusal's own words, and tries any other
// again later: a fault of the house is no answer to what was asked.
func (e *Engine) failed(ctx context.Context, d due, err error) error {
	err = ledger.Explain(ctx, e.runner.DB, err)
	r := refusal.From(err)
	if r != nil && r.Kind != refusal.Unavailable {
		return e.stop(ctx, d, r.Sentence)
	}
	slog.Error("a schedule failed", "schedule", d.ID, "error", err)
	words := "Something went wrong inside, and nothing was done."
	if r != nil {
		words = r.Sentence
	}
	return e.postpone(ctx, d, words)
}

// The first pause after a passing fault, and the longest: each is twice the one before.
const (
	firstPause   = 10 * time.Second
	longestPause = 15 * time.Minute
)

// postpone has a schedule tried again after a pause.
func (e *Engine) postpone(ctx context.Context, d due, words string) error {
	pause := longestPause
	if d.Failures < 7 {
		pause = min(firstPause<<d.Failures, longestPause)
	}
	_, err := command.Do(ctx, e.runner, "", "postpone-schedule", nil, func(ctx context.Context, tx *command.Tx) (bool,
		error) {
		tx.Nowhere()
		if held, err := await(ctx, tx, d); err != nil || !held {
			return false, err
		}
		if _, err := tx.ExecContext(ctx, `
			UPDATE schedules SET failures = failures + 1, retry_at = $2, trouble = $3 WHERE id = $1`,
			d.ID, tx.Now.Add(pause), words); err != nil {
			return false, fmt.Errorf("postponing a schedule: %w", err)
		}
		tx.NotifySite(d.SiteID, "schedules")
		return true, nil
	})
	return err
}

// hold keeps a schedule to this transaction, unless another has it or it has run.
func hold(ctx context.Context, tx *command.Tx, d due) (held bool, err error) {
	return locked(ctx, tx, d, "SKIP LOCKED")
}

// await is hold, but waits for another that has it: one whose connection was cut lets go
// a moment later.
func await(ctx context.Context, tx *command.Tx, d due) (held bool, err error) {
	return locked(ctx, tx, d, "")
}

func locked(ctx context.Context, tx *command.Tx, d due, how string) (bool, error) {
	var again []due
	err := tx.SelectContext(ctx, &again, dueColumns+`
		WHERE id = $1 AND state = 'on' AND next_at = $2 AND failures = $3 FOR UPDATE `+how, d.ID, d.NextAt, d.Failures)
	if err != nil {
		return false, fmt.Errorf("holding a schedule: %w", err)
	}
	return len(again) == 1, nil
}

// run does what is due and sets when it is due next.
func (e *Engine) run(ctx context.Context, tx *command.Tx, d due) (bool, error) {
	if err := tx.At(ctx, d.SiteID); err != nil {
		return false, err
	}
	if held, err := hold(ctx, tx, d); err != nil || !held {
		return false, err
	}
	work, err := e.do(ctx, tx, d)
	if err != nil {
		return false, err
	}
	if err := note(ctx, tx, d.ID, &d.NextAt, work); err != nil {
		return false, err
	}
	next, err := nextOf(ctx, tx, d.SiteID, d.Rule, tx.Now)
	if err != nil {
		return false, err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE schedules SET next_at = $2, failures = 0, retry_at = NULL, trouble = '' WHERE id = $1`,
		d.ID, next); err != nil {
		return false, fmt.Errorf("setting when a schedule is due: %w", err)
	}
	tx.NotifySite(d.SiteID, "schedules")
	return true, nil
}

// do does a schedule's task as the person who acts.
func (e *Engine) do(ctx context.Context, tx *command.Tx, d due) (Work, error) {
	task, err := e.task(d.Task)
	if err != nil {
		return Work{}, err
	}
	if err := task.may(tx.Person); err != nil {
		return Work{}, err
	}
	var s Settings
	if err := json.Unmarshal(d.Set, &s); err != nil {
		return Work{}, fmt.Errorf("reading a schedule's settings: %w", err)
	}
	return task.Do(ctx, tx, d.SiteID, s)
}

// stop keeps why a schedule can't go on. Nothing of its run was done.
func (e *Engine) stop(ctx context.Context, d due, words string) error {
	_, err := command.Do(ctx, e.runner, "", "stop-schedule", nil, func(ctx context.Context, tx *command.Tx) (bool,
		error) {
		tx.Nowhere()
		if held, err := await(ctx, tx, d); err != nil || !held {
			return false, err
		}
		if _, err := tx.ExecContext(ctx, `
			UPDATE schedules SET state = 'stopped', stopped = $2, next_at = NULL, retry_at = NULL, failures = 0,
			  trouble = '', version = version + 1 WHERE id = $1`, d.ID, words); err != nil {
			return false, fmt.Errorf("stopping a schedule: %w", err)
		}
		tx.NotifySite(d.SiteID, "schedules")
		return true, keep(ctx, tx, d.ID, &d.NextAt, stopped, Work{Words: words})
	})
	return err
}

// note keeps what a run did.
func note(ctx context.Context, tx *command.Tx, id int64, dueAt *time.Time, w Work) error {
	outcome := did
	if len(w.Documents) == 0 {
		outcome = nothing
	}
	return keep(ctx, tx, id, dueAt, outcome, w)
}

func keep(ctx context.Context, tx *command.Tx, id int64, dueAt *time.Time, outcome string, w Work) error {
	if w.Documents == nil {
		w.Documents = []string{}
	}
	text, err := json.Marshal(w.Documents)
	if err != nil {
		return fmt.Errorf("keeping a run: %w", err)
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO schedule_runs (schedule_id, due_at, ran_at, outcome, words, documents)
		VALUES ($1, $2, $3, $4, $5, $6)`, id, dueAt, tx.Now, outcome, w.Words, string(text))
	if err != nil {
		return fmt.Errorf("keeping a run: %w", err)
	}
	return nil
}

func (e *Engine) task(name string) (Task, error) {
	for _, t := range e.tasks {
		if t.Name == name {
			return t, nil
		}
	}
	return Task{}, refusal.New(refusal.TaskUnknown, "task", "There is no task %s that could be done on schedule.", name)
}

func (t Task) may(p people.Person) error {
	if p.Roles.Has(t.Roles...) {
		return nil
	}
	return refusal.New(refusal.TaskBarred, "task",
		"%s does this, and %s is %s. Have one of those who may set it up: %s.", t.Title, p.Name, p.Roles, t.Roles).Of(refusal.Forbidden)
}

func readRule(text []byte) (r timetable.Rule, err error) {
	if err = json.Unmarshal(text, &r); err != nil {
		return r, fmt.Errorf("reading a schedule's rule: %w", err)
	}
	return r, nil
}
