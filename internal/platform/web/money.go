package web

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
	"sync"

	"lanternrow/internal/people"

	"github.com/danielgtaylor/huma/v2"
)

// seesMoney tells whether whoever acts sees what things cost and are sold for.
func seesMoney(ctx context.Context) bool {
	p, err := people.Acting(ctx)
	return err == nil && p.SeesMoney()
}

// withoutMoney leaves out of an answer what is tagged `money:"true"`, for whoever does not see money: a figure is told
// as an empty text, a list as an empty one, anything else as nothing. Sums that are tagged `money:"sums"` go by their
// rows: those of columns that are left out are left out too.
func withoutMoney(ctx huma.Context, _ string, v any) (any, error) {
	m := moneyIn(reflect.TypeOf(v))
	if m == nil || seesMoney(ctx.Context()) {
		return v, nil
	}
	text, err := json.Marshal(v)
	if err != nil {
		return nil, fmt.Errorf("leaving out money: %w", err)
	}
	var told any
	numbers := json.NewDecoder(bytes.NewReader(text))
	numbers.UseNumber()
	if err := numbers.Decode(&told); err != nil {
		return nil, fmt.Errorf("leaving out money: %w", err)
	}
	return m.left(told), nil
}

// A moneyMap says where in an answer there is money; nil is nowhere.
type moneyMap struct {
	// whole is money itself, sums is a map of sums over the rows beside it.
	whole, sums bool
	fields      map[string]*moneyMap
	// each is what every element of a list or a map is.
	each *moneyMap
}

// left is what is left of an answer.
func (m *moneyMap) left(v any) any {
	switch v := v.(type) {
	case map[string]any:
		if m.whole {
			return nil
		}
		for name, inner := range v {
			if at := m.at(name); at != nil {
				v[name] = at.left(inner)
			}
		}
		m.leaveSums(v)
		return v
	case []any:
		if m.whole {
			return []any{}
		}
		for i := range v {
			v[i] = m.each.left(v[i])
		}
		return v
	case nil:
		return nil
	}
	if m.whole {
		return ""
	}
	return v
}

// at is where money is below a name.
func (m *moneyMap) at(name string) *moneyMap {
	if m.each != nil {
		return m.each
	}
	return m.fields[name]
}

// leaveSums takes those out that add up a column of money of the rows beside them.
func (m *moneyMap) leaveSums(v map[string]any) {
	for name, f := range m.fields {
		sums, ok := v[name].(map[string]any)
		if !f.sums || !ok {
			continue
		}
		for _, rows := range m.fields {
			if rows.each == nil {
				continue
			}
			for column, inner := range rows.each.fields {
				if inner.whole {
					delete(sums, column)
				}
			}
		}
	}
}

var (
	moneyKnown sync.Map
	jsonMaker  = reflect.TypeFor[json.Marshaler]()
)

// moneyIn looks for money in a type, once for each.
func moneyIn(t reflect.Type) *moneyMap {
	if t == nil {
		return nil
	}
	if known, ok := moneyKnown.Load(t); ok {
		return known.(*moneyMap)
	}
	m := lookForMoney(t, map[reflect.Type]bool{})
	moneyKnown.Store(t, m)
	return m
}

// lookForMoney goes through a type; within are those that it is in already, which hold no more than was looked at.
func lookForMoney(t reflect.Type, within map[reflect.Type]bool) *moneyMap {
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	switch {
	case within[t]:
		return nil
	case t.Kind() == reflect.Slice || t.Kind() == reflect.Array || t.Kind() == reflect.Map:
		if each := lookForMoney(t.Elem(), within); each != nil {
			return &moneyMap{each: each}
		}
		return nil
	case t.Kind() != reflect.Struct || t.Implements(jsonMaker) || reflect.PointerTo(t).Implements(jsonMaker):
		return nil
	}
	within[t] = true
	defer delete(within, t)
	m := &moneyMap{fields: map[string]*moneyMap{}}
	for _, f := range reflect.VisibleFields(t) {
		m.take(f, within)
	}
	if len(m.fields) == 0 {
		return nil
	}
	return m
}

// take notes the money of a field, by the name that JSON tells it under, if there is any.
func (m *moneyMap) take(f reflect.StructField, within map[reflect.Type]bool) {
	name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
	if name == "" || name == "-" {
		return
	}
	switch f.Tag.Get("money") {
	case "true":
		m.fields[name] = &moneyMap{whole: true}
	case "sums":
		m.fields[name] = &moneyMap{sums: true}
	default:
		if inner := lookForMoney(f.Type, within); inner != nil {
			m.fields[name] = inner
		}
	}
}
