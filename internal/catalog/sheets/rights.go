package sheets

import (
	"context"
	"iter"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/web"
)

// changed are the columns in which a row becomes another, with what they were; a new row is as if it had been empty before.
func (s Sheet) changed(old, row Row) iter.Seq2[Column, string] {
	return func(yield func(Column, string) bool) {
		for _, c := range s.Columns {
			before := c.empty()
			if old != nil {
				before = old[c.Name]
			}
			if before != row[c.Name] && !yield(c, before) {
				return
			}
		}
	}
}

// mayWrite refuses a row that changes a column of another role's.
func (s Sheet) mayWrite(p people.Person, old, row Row) error {
	for c, before := range s.changed(old, row) {
		if err := c.mayChange(p, before); err != nil {
			return err
		}
	}
	return nil
}

// mayChange refuses to change a column that is another role's: what lifts a limit is a lead's, and money that of
// accounts.
func (c Column) mayChange(p people.Person, stands string) error {
	by := web.Office
	switch c.By {
	case people.Lead:
		by = web.Lead
	case people.Accounts:
		by = web.Accounts
	}
	if p.Roles.Has(by...) {
		return nil
	}
	return refusal.New(refusal.Role, c.Name, "%s may not change %q; it stays %s. Ask one of: %s.", p.RoleWords(), c.Label,
		shown(stands), by).Of(refusal.Forbidden)
}

// seenBy is the sheet with the columns that whoever acts sees, and which of them they may change.
func (s Sheet) seenBy(ctx context.Context) Sheet {
	p, _ := people.Acting(ctx)
	seen := []Column{}
	for _, c := range s.Columns {
		c.Fixed = c.mayChange(p, "") != nil
		if p.SeesMoney() || !c.Money {
			seen = append(seen, c)
		}
	}
	s.Columns = seen
	return s
}

// columnNames are those of its columns.
func (s Sheet) columnNames() []string {
	names := make([]string, len(s.Columns))
	for i, c := range s.Columns {
		names[i] = c.Name
	}
	return names
}
