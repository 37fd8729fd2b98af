package answer

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/server/store"
)

// TestBoundEcho checks what a refusal says again: short values as they are, long
// ones cut, lists not at all, and so many errors and no more.
func TestBoundEcho(t *testing.T) {
	m := &huma.ErrorModel{Errors: []*huma.ErrorDetail{
		{Message: strings.Repeat("m", 321), Value: strings.Repeat("ü", 81)}, {Message: "short", Value: strings.Repeat("ü", 80)}, {Value: 7}, {Value: 7.5}, {Value: true}, {Value: nil}, {Value: []any{1}}, {Value: map[string]any{"a": 1}},
	}}
	BoundEcho(nil, "422", m)
	for i, want := range []any{strings.Repeat("ü", 80) + "…", strings.Repeat("ü", 80), 7, 7.5, true, nil, nil, nil} {
		if m.Errors[i].Value != want {
			t.Errorf("value %d: %v", i, m.Errors[i].Value)
		}
	}
	if m.Errors[0].Message != strings.Repeat("m", 320)+"…" || m.Errors[1].Message != "short" || len(m.Errors) != 8 {
		t.Errorf("%d errors, %q", len(m.Errors), m.Errors[0].Message)
	}
	for n, want := range map[int]string{20: "", 21: "and 1 more", 50: "and 30 more"} {
		m := &huma.ErrorModel{}
		for range n {
			m.Errors = append(m.Errors, &huma.ErrorDetail{})
		}
		BoundEcho(nil, "422", m)
		if len(m.Errors) != min(n, 21) || m.Errors[len(m.Errors)-1].Message != want {
			t.Errorf("of %d errors %d are said, the last %q", n, len(m.Errors), m.Errors[len(m.Errors)-1].Message)
		}
	}
	if v, err := BoundEcho(nil, "200", "answer"); v != "answer" || err != nil {
		t.Errorf("an answer becomes %v, %v", v, err)
	}
}

// TestTroubleAnswers checks how a database that cannot do its work is answered
// for.
func TestTroubleAnswers(t *testing.T) {
	for kind, want := range map[store.TroubleKind]int{store.Full: 507, store.Locked: 503, store.ReadOnly: 503, store.Corrupt: 500, store.Broken: 500} {
		err := StoreError(fmt.Errorf("storing: %w", &store.Trouble{Kind: kind, Path: "/data/slatebell.db"}))
		var status huma.StatusError
		if !errors.As(err, &status) || status.GetStatus() != want || !strings.Contains(err.Error(), "/data/slatebell.db") {
			t.Errorf("kind %d: %v", kind, err)
		}
	}
}
