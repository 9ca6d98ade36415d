package api

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/core/strength"
	"celandine/service/store"
)

func (s *service) looks(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "hint", Method: http.MethodPost, Path: "/api/classes/{class}/insight/{name}/hint",
		Summary: "Say something to everybody whose counting hand-in behaves like a known mistake", Tags: []string{"review"}}, s.hint)
}

// looked is what a closer look at a hand-in found, as far as a person may see it: a learner reads the instructor's sentence, and the
// script, where the assignment says so. waits tells that something may still come.
func (s *service) looked(ctx context.Context, at here, h store.Handin) (found *client.Look, waits bool, err error) {
	if !at.teaches() && !h.Assignment.TellMistake && !h.Assignment.TellDifference {
		return nil, false, nil
	}
	l, err := s.Store.LookAt(ctx, h.ID)
	if err != nil || l == nil {
		return nil, err == nil, err
	}
	out, err := asLook(*l)
	if err != nil || at.teaches() {
		return out, false, err
	}
	told := &client.Look{}
	if m := out.Mistake; m != nil && m.Says != "" && h.Assignment.TellMistake {
		told.Mistake = &client.KnownMistake{Says: m.Says}
	}
	if d := out.Difference; d != nil && h.Assignment.TellDifference {
		d.YAML = ""
		told.Difference = d
	}
	if told.Mistake == nil && told.Difference == nil {
		return nil, false, nil
	}
	return told, false, nil
}

func asLook(l store.Look) (*client.Look, error) {
	out := &client.Look{Verdict: l.Verdict}
	if l.Mistake != "" {
		out.Mistake = &client.KnownMistake{Key: l.Mistake, Title: l.Title, Words: l.Words, Says: l.Says, Hint: l.Hint}
	}
	if l.Found == nil {
		return out, nil
	}
	var f strength.Found
	if err := json.Unmarshal(l.Found, &f); err != nil {
		return nil, fmt.Errorf("reading what was found of hand-in %d: %w", l.HandinID, err)
	}
	script, err := json.Marshal(f.Script)
	out.Difference = &client.FoundDifference{Signal: f.Signal, Scan: f.Scan, Say: f.Words(), Steps: f.Told(), YAML: f.YAML(), Script: script}
	return out, err
}

// mistakes groups counting hand-ins by the known mistake that they behave like.
func (s *service) mistakes(ctx context.Context, a store.Assignment, list []store.Handin) ([]client.MistakeGroup, error) {
	slips, err := s.Store.Slips(ctx, a.ID)
	if err != nil {
		return nil, err
	}
	ever, err := s.Store.EverMade(ctx, a.Revision.ExerciseID)
	if err != nil {
		return nil, err
	}
	groups := map[string]*client.MistakeGroup{}
	for _, h := range list {
		at := slices.IndexFunc(slips, func(one store.Slip) bool { return one.HandinID == h.ID })
		if at < 0 || slips[at].Mistake == "" {
			continue
		}
		one := slips[at]
		if groups[one.Mistake] == nil {
			groups[one.Mistake] = &client.MistakeGroup{Ever: ever[one.Mistake],
				KnownMistake: client.KnownMistake{Key: one.Mistake, Title: one.Title, Words: one.Words, Says: one.Says, Hint: one.Hint}}
		}
		g := groups[one.Mistake]
		g.Handins = append(g.Handins, client.SlipShort{HandinShort: client.HandinShort{ID: h.ID, Person: h.Person.Name}, Since: since(slips, at)})
	}
	out := []client.MistakeGroup{}
	for _, g := range groups {
		out = append(out, *g)
	}
	slices.SortFunc(out, func(a, b client.MistakeGroup) int {
		return cmp.Or(len(b.Handins)-len(a.Handins), cmp.Compare(a.Key, b.Key))
	})
	return out, nil
}

// since is the number of the first of a person's hand-ins, one after the other, that behave alike up to one.
func since(slips []store.Slip, at int) int {
	first := at
	for first > 0 && slips[first-1].PersonID == slips[at].PersonID && slips[first-1].Mistake == slips[at].Mistake {
		first--
	}
	return slips[first].Number
}

// hint comments on every counting hand-in that behaves like a mistake.
func (s *service) hint(ctx context.Context, in *struct {
	OfAssignment
	Body client.Hinting
}) (*body[client.Hinted], error) {
	at, a, err := s.assignment(ctx, in.OfAssignment)
	if err != nil {
		return nil, err
	}
	list, err := s.counting(ctx, at, a)
	if err != nil {
		return nil, s.told(err, "")
	}
	groups, err := s.mistakes(ctx, a, list)
	if err != nil {
		return nil, s.told(err, "")
	}
	n := slices.IndexFunc(groups, func(g client.MistakeGroup) bool { return g.Key == in.Body.Mistake })
	if n < 0 {
		return nil, coded(http.StatusUnprocessableEntity, "mistake", "No hand-in that counts behaves like this mistake.")
	}
	var comments []store.Comment
	for _, h := range groups[n].Handins {
		comments = append(comments, store.Comment{HandinID: h.ID, ByID: at.ID, Text: in.Body.Text})
	}
	return &body[client.Hinted]{client.Hinted{Told: len(comments)}}, s.told(s.Store.SayAll(ctx, comments), "")
}
