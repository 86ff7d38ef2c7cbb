package sheets

import (
	"context"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"
)

// mayWrite refuses a row that changes a column of another role's; a new row is as if it had been empty before.
func (s Sheet) mayWrite(p people.Person, old, row Row) error {
	for _, c := range s.Columns {
		before := c.empty()
		if old != nil {
			before = old[c.Name]
		}
		if before == row[c.Name] {
			continue
		}
		if err := c.mayChange(p, before); err != nil {
			return err
		}
	}
	return nil
}

// mayChange refuses to change a column that is another role's: what lifts a limit is a lead's, and money that of
// accounts.
func (c Column) mayChange(p people.Person, stands string) error {
	by := people.Roles{people.Lead, people.Office}
	switch c.By {
	case people.Lead:
		by = people.Roles{people.Lead}
	case people.Accounts:
		by = people.Roles{people.Lead, people.Accounts}
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
