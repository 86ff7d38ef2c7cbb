package refusal

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
)

// TestCodesAreAClosedSet reads the whole program: each refusal has a code of the set, and
// each code of the set is that of some refusal.
func TestCodesAreAClosedSet(t *testing.T) {
	t.Parallel()
	form := regexp.MustCompile(`^[a-z][a-z0-9]*(_[a-z0-9]+)*$`)
	listed := map[Code]bool{}
	for _, c := range Codes {
		if listed[c] || !form.MatchString(string(c)) {
			t.Errorf("%q is listed twice, or is no code", c)
		}
		listed[c] = true
	}
	set := constants(t)
	for name, c := range set {
		if !listed[c] {
			t.Errorf("%s is not listed", name)
		}
	}
	if len(set) != len(Codes) {
		t.Errorf("%d constants, %d listed", len(set), len(Codes))
	}
	used := uses(t, filepath.Join("..", "..", ".."))
	for name := range set {
		if !used[name] {
			t.Errorf("nothing is refused with %s", name)
		}
	}
}

// constants are the codes declared in this package, by name.
func constants(t *testing.T) map[string]Code {
	t.Helper()
	file, err := parser.ParseFile(token.NewFileSet(), "codes.go", nil, 0)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]Code{}
	ast.Inspect(file, func(n ast.Node) bool {
		if v, ok := n.(*ast.ValueSpec); ok && len(v.Values) == 1 {
			if lit, ok := v.Values[0].(*ast.BasicLit); ok {
				s, _ := strconv.Unquote(lit.Value)
				out[v.Names[0].Name] = Code(s)
			}
		}
		return true
	})
	return out
}

// uses are the names of this package that the program below root speaks of. It fails where
// a refusal is made with a code that is written out.
func uses(t *testing.T, root string) map[string]bool {
	t.Helper()
	out := map[string]bool{}
	err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() && (d.Name() == "node_modules" || strings.HasPrefix(d.Name(), ".") &&
			d.Name() != "..") {
			return filepath.SkipDir
		}
		if d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		if err != nil {
			return err
		}
		ast.Inspect(file, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.SelectorExpr:
				if x, ok := n.X.(*ast.Ident); ok && x.Name == "refusal" {
					out[n.Sel.Name] = true
				}
			case *ast.CallExpr:
				f, ok := n.Fun.(*ast.SelectorExpr)
				if ok && f.Sel.Name == "New" && len(n.Args) > 2 {
					if lit, ok := n.Args[0].(*ast.BasicLit); ok && lit.Kind == token.STRING {
						t.Errorf("%s refuses with %s, which is no constant", path, lit.Value)
					}
				}
			}
			return true
		})
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	return out
}
