// Package station says what the packages of the stations have in common; it has no code.
//
// A function that takes a *command.Tx is a command. It holds what it reads to change, in
// the one order of package documents, so that its caller holds nothing beforehand and may
// run nothing after it that comes earlier in that order. It changes stock only through
// package ledger, notes for Notify what changed, and either does all that its name says or
// returns an error, after which the caller ends the transaction.
//
// A function that takes a sqlx.QueryerContext reads, holds nothing, and may be called
// within a transaction and without.
//
// Quantities are decimals in base units, except where a field names a pack; they come in
// as text, which is refused at its field where it is no quantity. Weights are kilograms,
// lengths metres, volumes litres, times minutes, and money is in the house's currency.
// Days are text of the form 2027-12-31 by the site's calendar.
//
// What is refused is a *refusal.Refusal with its code, the field it is about, the numbers
// and what can be done; a version that is not the document's refuses with refusal.Stale.
// Any other error is a fault of the house.
package station
