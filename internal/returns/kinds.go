package returns

import (
	"context"
	"fmt"

	"lanternrow/internal/core/returning"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// What a return gives to the customer.
const (
	Money     = "money"
	SameAgain = "the same again"
	// SomethingElse is an order over other goods, and the money for what came back.
	SomethingElse = "something else"
	Nothing       = "nothing"
)

// A Kind says what a return goes through, and what the customer gets for it and when.
type Kind struct {
	ID         int32           `db:"id" json:"id"`
	Name       string          `db:"name" json:"name"`
	Approved   bool            `db:"approved" json:"approved" doc:"Somebody approves it before its goods may come"`
	Gives      string          `db:"gives" json:"gives" enum:"money,the same again,something else,nothing"`
	When       returning.When  `db:"gives_when" json:"gives_when" enum:"announced,received,decided"`
	Taxed      bool            `db:"taxed" json:"taxed" doc:"Whether money is given back with its tax"`
	FeePct     decimal.Decimal `db:"fee_pct" json:"fee_pct"`
	WithinDays *int            `db:"within_days" json:"within_days" doc:"How long after shipping; any time without"`
	SendInDays int             `db:"send_in_days" json:"send_in_days"`
	Decides    Fate            `db:"decides" json:"decides" enum:",stock,quarantine,damaged,scrap" doc:"What becomes of its goods as they come in, with nobody asked; somebody decides without"`
	GoodsStay  bool            `db:"goods_stay" json:"goods_stay" doc:"Its goods stay with the customer: none are sent in, received or decided on"`
	Inspected  bool            `db:"inspected" json:"inspected" doc:"Whoever receives its goods says in what condition they came"`
	Papered    bool            `db:"papered" json:"papered" doc:"Its goods are found by what was shipped; they come without any paper else"`
}

// A Reason is why customers send goods back.
type Reason struct {
	ID   int32  `db:"id" json:"id"`
	Name string `db:"name" json:"name"`
}

const kindColumns = `
	SELECT id, name, approved, gives, gives_when, taxed, fee_pct, within_days, send_in_days, decides, goods_stay,
	       inspected, papered
	  FROM return_kinds `

func listKinds(ctx context.Context, q sqlx.QueryerContext) ([]Kind, error) {
	out := []Kind{}
	if err := sqlx.SelectContext(ctx, q, &out, kindColumns+`WHERE NOT retired ORDER BY id`); err != nil {
		return nil, fmt.Errorf("listing kinds of returns: %w", err)
	}
	return out, nil
}

func readKind(ctx context.Context, q sqlx.QueryerContext, id int32) (k Kind, err error) {
	err = sqlx.GetContext(ctx, q, &k, kindColumns+`WHERE id = $1`, id)
	return k, documents.Found(err, "kind of return", fmt.Sprint(id))
}

func listReasons(ctx context.Context, q sqlx.QueryerContext) ([]Reason, error) {
	out := []Reason{}
	if err := sqlx.SelectContext(ctx, q, &out, `SELECT id, name FROM return_reasons ORDER BY id`); err != nil {
		return nil, fmt.Errorf("listing reasons of returns: %w", err)
	}
	return out, nil
}
