package connection

import (
	"context"
	"encoding/json"
	"errors"
)

// Unconnected is where nothing is connected to a channel: what is to be told waits until something is.
type Unconnected struct{}

// Deliver delivers nothing.
func (Unconnected) Deliver(context.Context, Message) (json.RawMessage, error) {
	return nil, errors.New("nothing is connected that takes this; whoever runs the server connects it")
}
