package staff

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"fmt"
	"strings"

	"lanternrow/internal/catalog/sheets"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/exchange"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// Founding is the first site and the first lead.
type Founding struct {
	SiteCode string `json:"site_code" maxLength:"20" doc:"A short code that stays"`
	SiteName string `json:"site_name" maxLength:"80"`
	Timezone string `json:"timezone" maxLength:"60" doc:"The clock on its walls, such as Europe/London"`
	Name     string `json:"name" maxLength:"80" doc:"Of the lead, as it is to stand in the trail"`
	Login    string `json:"login" maxLength:"60"`
	Password string `json:"password" maxLength:"200"`
}

// Console is who acts at the console of the machine that the server runs on: whoever can, may.
var Console = people.Person{Name: "the console", Roles: people.Roles{people.Lead}}

// Founded tells whether anybody works here.
func Founded(ctx context.Context, q sqlx.QueryerContext) (founded bool, err error) {
	if err := sqlx.GetContext(ctx, q, &founded, `SELECT EXISTS (SELECT FROM people)`); err != nil {
		return false, fmt.Errorf("looking whether anybody works here: %w", err)
	}
	return founded, nil
}

// Found makes the first site and the first lead, once.
func Found(ctx context.Context, tx *command.Tx, in Founding) (Member, error) {
	if _, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock(hashtext('staff.found'))`); err != nil {
		return Member{}, fmt.Errorf("founding one after another: %w", err)
	}
	if err := unfounded(ctx, tx); err != nil {
		return Member{}, err
	}
	if strings.TrimSpace(in.Timezone) == "" {
		in.Timezone = "UTC"
	}
	table := exchange.Table{Header: []string{"code", "name", "timezone"}, Rows: [][]string{{in.SiteCode, in.SiteName, in.Timezone}}}
	if _, err := sheets.Sheets["sites"].Import(ctx, tx, 0, table, true); err != nil {
		return Member{}, inField(err)
	}
	var site int32
	if err := tx.GetContext(ctx, &site, `SELECT id FROM sites ORDER BY id DESC LIMIT 1`); err != nil {
		return Member{}, fmt.Errorf("reading the first site: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM first_start`); err != nil {
		return Member{}, fmt.Errorf("founding: %w", err)
	}
	lead := Wish{Name: in.Name, Login: in.Login, Roles: people.Roles{people.Lead}, SiteID: site}
	return Add(ctx, tx, Newcomer{Wish: lead, Password: in.Password, chose: true})
}

// inField names a field of the first site as it is called here.
func inField(err error) error {
	if r := refusal.From(err); r != nil && r.Field != "" {
		r.Field = map[string]string{"code": "site_code", "name": "site_name"}[r.Field] + map[string]string{"timezone": "timezone"}[r.Field]
	}
	return err
}

func unfounded(ctx context.Context, q sqlx.QueryerContext) error {
	founded, err := Founded(ctx, q)
	if err == nil && founded {
		err = refusal.New(refusal.HouseFounded, "", "People work here already. A lead adds others on the page People; whoever runs the server "+
			"does so with lanternrow user add.").Of(refusal.Conflict)
	}
	return err
}

// OpenDoor makes a code that opens the first page, while nobody works here; empty once somebody does. The code before it is
// good no more.
func OpenDoor(ctx context.Context, db *sqlx.DB) (code string, err error) {
	if founded, err := Founded(ctx, db); err != nil || founded {
		return "", err
	}
	code = rand.Text()
	sum := sha256.Sum256([]byte(code))
	if _, err := db.ExecContext(ctx, `
		INSERT INTO first_start (code_hash) VALUES ($1) ON CONFLICT (only_one) DO UPDATE SET code_hash = $1`, sum[:]); err != nil {
		return "", fmt.Errorf("opening the first page: %w", err)
	}
	return code, nil
}

// checkCode refuses a code that does not open the first page.
func checkCode(ctx context.Context, q sqlx.QueryerContext, code string) error {
	if err := unfounded(ctx, q); err != nil {
		return err
	}
	var kept [][]byte
	if err := sqlx.SelectContext(ctx, q, &kept, `SELECT code_hash FROM first_start`); err != nil {
		return fmt.Errorf("reading the first page's code: %w", err)
	}
	sum := sha256.Sum256([]byte(strings.ToUpper(strings.TrimSpace(code))))
	if len(kept) == 0 || subtle.ConstantTimeCompare(kept[0], sum[:]) != 1 {
		return refusal.New(refusal.WrongSecret, "code", "This is not the code that the server printed when it started last. Look there, or start "+
			"it again: it prints another.").Of(refusal.Forbidden)
	}
	return nil
}
