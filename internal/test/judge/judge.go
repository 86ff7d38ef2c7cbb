// Package judge asks other people's programs what they make of our answers.
package judge

import (
	"bufio"
	"encoding/json"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"testing"
)

// A Node is a script of e2e/judges that answers a line of JSON with a line of JSON.
type Node struct {
	in  io.WriteCloser
	out *bufio.Scanner
}

// NewNode starts a script.
func NewNode(t testing.TB, script string) *Node {
	t.Helper()
	_, file, _, _ := runtime.Caller(0)
	cmd := exec.Command("node", "judges/"+script)
	cmd.Dir = filepath.Join(filepath.Dir(file), "..", "..", "..", "e2e")
	cmd.Stderr = os.Stderr
	in, err1 := cmd.StdinPipe()
	out, err2 := cmd.StdoutPipe()
	if err1 != nil || err2 != nil {
		t.Fatal(err1, err2)
	}
	if err := cmd.Start(); err != nil {
		t.Fatalf("starting the judge (is e2e/node_modules installed?): %v", err)
	}
	t.Cleanup(func() { _ = in.Close(); _ = cmd.Wait() })
	scanner := bufio.NewScanner(out)
	scanner.Buffer(nil, 1<<20)
	return &Node{in, scanner}
}

// Ask puts one question.
func (n *Node) Ask(t testing.TB, question, answer any) {
	t.Helper()
	text, err := json.Marshal(question)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := n.in.Write(append(text, '\n')); err != nil {
		t.Fatal(err)
	}
	if !n.out.Scan() {
		t.Fatal("the judge has gone")
	}
	if err := json.Unmarshal(n.out.Bytes(), answer); err != nil {
		t.Fatal(err)
	}
}

// Minimum solves an integer programme, written as LP text, with COIN-OR CBC and
// returns its objective. feasible is false when it has no solution.
func Minimum(t testing.TB, programme string) (value float64, feasible bool) {
	t.Helper()
	dir := t.TempDir()
	model, answer := filepath.Join(dir, "m.lp"), filepath.Join(dir, "m.txt")
	if err := os.WriteFile(model, []byte(programme), 0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("cbc", model, "ratio", "0", "allow", "0", "solve", "solu",
		answer).CombinedOutput(); err != nil {
		t.Fatalf("cbc (apt-get install coinor-cbc): %v\n%s", err, out)
	}
	text, err := os.ReadFile(answer)
	if err != nil {
		t.Fatal(err)
	}
	first, _, _ := strings.Cut(string(text), "\n")
	if strings.HasPrefix(first, "Infeasible") {
		return 0, false
	}
	_, objective, ok := strings.Cut(first, "objective value")
	if !ok || !strings.HasPrefix(first, "Optimal") {
		t.Fatalf("cbc says %q", first)
	}
	value, err = strconv.ParseFloat(strings.TrimSpace(objective), 64)
	if err != nil {
		t.Fatal(err)
	}
	return value, true
}
