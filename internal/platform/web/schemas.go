package web

import (
	"path"
	"reflect"
	"strings"

	"github.com/danielgtaylor/huma/v2"
)

// schemaName names a type in the API's description after its package too, since
// each station has an Order of its own.
func schemaName(t reflect.Type, hint string) string {
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	name := huma.DefaultSchemaNamer(t, hint)
	if pkg := path.Base(t.PkgPath()); t.Name() != "" && strings.HasPrefix(t.PkgPath(), "lanternrow/") && pkg != "web" {
		return strings.ToUpper(pkg[:1]) + pkg[1:] + name
	}
	return name
}
