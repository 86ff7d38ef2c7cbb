package schedules

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/timetable"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
)

// A Schedule is something that is done on schedule.
type Schedule struct {
	ID       int64          `db:"id" json:"id"`
	Number   string         `db:"number" json:"number"`
	SiteID   int32          `db:"site_id" json:"site_id"`
	Task     string         `db:"task" json:"task"`
	Title    string         `db:"-" json:"title"`
	Rule     timetable.Rule `db:"-" json:"rule"`
	RuleText []byte         `db:"rule" json:"-"`
	// When says the rule in words.
	When    string     `db:"-" json:"when"`
	Set     Settings   `db:"-" json:"settings"`
	SetText []byte     `db:"settings" json:"-"`
	State   string     `db:"state" json:"state" enum:"on,paused,stopped,removed"`
	Stopped string     `db:"stopped" json:"stopped" doc:"Why it stopped"`
	NextAt  *time.Time `db:"next_at" json:"next_at"`
	// Coming is when it is due within the next day.
	Coming []time.Time `db:"-" json:"coming" doc:"When it is due within the next 24 hours"`
	// Failures is how often it failed since it was last done, Trouble what was wrong the last
	// time, and RetryAt when it is tried again.
	Failures int        `db:"failures" json:"failures"`
	RetryAt  *time.Time `db:"retry_at" json:"retry_at"`
	Trouble  string     `db:"trouble" json:"trouble"`
	Version  int32      `db:"version" json:"version"`
	// ActsFor is whoever set it up or changed it last.
	ActsFor string `db:"acts_for" json:"acts_for"`
	// Runs is what it did last.
	Runs []Run `db:"-" json:"runs"`
}

// A Run is once that a schedule ran.
type Run struct {
	ID         int64      `db:"id" json:"id"`
	ScheduleID int64      `db:"schedule_id" json:"-"`
	DueAt      *time.Time `db:"due_at" json:"due_at" doc:"When it was due; nothing when it was run by hand"`
	RanAt      time.Time  `db:"ran_at" json:"ran_at"`
	Outcome    string     `db:"outcome" json:"outcome" enum:"did,nothing,stopped"`
	Words      string     `db:"words" json:"words"`
	Text       []byte     `db:"documents" json:"-"`
	Documents  []string   `db:"-" json:"documents"`
	documents.Sorted
}

// runs are the runs of a schedule.
var runs = documents.List[Run]{
	Query: `SELECT id, schedule_id, due_at, ran_at, outcome, words, documents FROM schedule_runs WHERE schedule_id = $1`,
	Keys: map[string]documents.SortKey{
		"when":      {Expr: "o.id::numeric", Type: "numeric"},
		"by":        {Expr: "(o.due_at IS NULL)::text", Type: "text"},
		"outcome":   {Expr: "o.outcome", Type: "text"},
		"what":      {Expr: "o.words", Type: "text"},
		"documents": {Expr: "jsonb_array_length(o.documents)::numeric", Type: "numeric"},
	},
	Finish: readDocuments,
	Header: []string{"ran_at", "due_at", "outcome", "what", "documents"},
	Text: func(r Run) []string {
		due := ""
		if r.DueAt != nil {
			due = r.DueAt.UTC().Format(time.RFC3339)
		}
		return []string{r.RanAt.UTC().Format(time.RFC3339), due, r.Outcome, r.Words, strings.Join(r.Documents, " ")}
	},
}

// readDocuments reads which documents runs made or changed.
func readDocuments(of []Run) error {
	for i := range of {
		if err := json.Unmarshal(of[i].Text, &of[i].Documents); err != nil {
			return fmt.Errorf("reading what a schedule did: %w", err)
		}
	}
	return nil
}

const columns = `
	SELECT s.id, s.number, s.site_id, s.task, s.rule, s.settings, s.state, s.stopped, s.next_at, s.failures,
	       s.retry_at, s.trouble, s.version, p.name AS acts_for FROM schedules s JOIN people p ON p.id = s.changed_by `

// kept is how many runs stand beside their schedule.
const kept = 1

func (e *Engine) list(ctx context.Context, q sqlx.QueryerContext, where string, args ...any) ([]Schedule, error) {
	out := []Schedule{}
	if err := sqlx.SelectContext(ctx, q, &out, columns+where, args...); err != nil {
		return nil, fmt.Errorf("reading schedules: %w", err)
	}
	at, ids := map[int64]*Schedule{}, make([]int64, len(out))
	for i := range out {
		s := &out[i]
		at[s.ID], ids[i], s.Runs, s.Coming = s, s.ID, []Run{}, []time.Time{}
		task, err := e.task(s.Task)
		if err != nil {
			return nil, err
		}
		s.Title = task.Title
		if s.Rule, err = readRule(s.RuleText); err != nil {
			return nil, err
		}
		s.When = s.Rule.Words()
		if err := json.Unmarshal(s.SetText, &s.Set); err != nil {
			return nil, fmt.Errorf("reading a schedule's settings: %w", err)
		}
	}
	var last []Run
	err := sqlx.SelectContext(ctx, q, &last, `
		SELECT r.id, r.schedule_id, r.due_at, r.ran_at, r.outcome, r.words, r.documents FROM unnest($1::bigint[]) AS s(id)
		CROSS JOIN LATERAL (SELECT * FROM schedule_runs WHERE schedule_id = s.id ORDER BY id DESC LIMIT $2) AS r
		ORDER BY r.schedule_id, r.id DESC`, ids, kept)
	if err != nil {
		return nil, fmt.Errorf("reading what schedules did: %w", err)
	}
	if err := readDocuments(last); err != nil {
		return nil, err
	}
	for _, r := range last {
		at[r.ScheduleID].Runs = append(at[r.ScheduleID].Runs, r)
	}
	return out, nil
}

// listComing is list of a site's schedules, with when each is due within the next day.
func (e *Engine) listComing(
	ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time,
) ([]Schedule, error) {
	out, err := e.list(ctx, q, `WHERE s.site_id = $1 AND s.state <> 'removed' ORDER BY s.id`, site)
	if err != nil {
		return nil, err
	}
	clock, err := catalog.ClockOf(ctx, q, site)
	if err != nil {
		return nil, err
	}
	for i := range out {
		s := &out[i]
		for at := now; s.State == "on"; {
			if at, err = s.Rule.Next(at, clock); err != nil {
				return nil, err
			}
			if at.Sub(now) > 24*time.Hour {
				break
			}
			s.Coming = append(s.Coming, at)
		}
	}
	return out, nil
}

func (e *Engine) read(ctx context.Context, q sqlx.QueryerContext, id int64) (Schedule, error) {
	found, err := e.list(ctx, q, `WHERE s.id = $1`, id)
	if err != nil {
		return Schedule{}, err
	}
	if len(found) == 0 {
		return Schedule{}, documents.Missing("schedule", fmt.Sprint(id))
	}
	return found[0], nil
}

// NextRun is when a task is next due at a site; nil when no schedule has it done.
func NextRun(ctx context.Context, q sqlx.QueryerContext, site int32, task string) (*time.Time, error) {
	var at *time.Time
	err := sqlx.GetContext(ctx, q, &at, `
		SELECT min(next_at) FROM schedules WHERE site_id = $1 AND task = $2 AND state = 'on'`, site, task)
	if err != nil {
		return nil, fmt.Errorf("reading when %s is due: %w", task, err)
	}
	return at, nil
}
