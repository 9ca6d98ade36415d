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
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/likeness"
	"celandine/core/source"
	"celandine/core/syntax"
	"celandine/service/store"
)

func (s *service) insight(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "insight", Method: http.MethodGet, Path: "/api/classes/{class}/insight/{name}",
		Summary: "What a class's counting hand-ins to an exercise tell", Tags: []string{"review"}}, s.classInsight)
}

func (s *service) classInsight(ctx context.Context, in *OfAssignment) (*body[client.Insight], error) {
	h, a, err := s.assignment(ctx, *in)
	if err != nil {
		return nil, err
	}
	list, err := s.counting(ctx, h, a)
	if err != nil {
		return nil, s.told(err, "")
	}
	g, err := s.Graders.Of(ctx, a.RevisionID)
	if err != nil {
		return nil, s.told(err, "")
	}
	out, err := tell(g.Exercise, list)
	if err != nil {
		return nil, s.told(err, "")
	}
	out.Exercise, out.Title = a.Exercise, a.Revision.Title
	if out.Mistakes, err = s.mistakes(ctx, a, list); err != nil {
		return nil, s.told(err, "")
	}
	out.Looking, err = s.Store.Unlooked(ctx, a.ID)
	return &body[client.Insight]{out}, s.told(err, "")
}

// counting lists the hand-ins to an assignment that count, one of each learner. An instructor's own try is nobody's mark.
func (s *service) counting(ctx context.Context, at here, a store.Assignment) ([]store.Handin, error) {
	attempts, err := s.Store.Attempts(ctx, at.Class, 0, a.ID)
	if err != nil {
		return nil, err
	}
	var counting []int64
	for _, st := range standings(at.Class, []store.Assignment{a}, attempts) {
		if st.handin != 0 {
			counting = append(counting, st.handin)
		}
	}
	if len(counting) == 0 {
		return nil, nil
	}
	list, err := s.Store.Graded(ctx, a.ID, counting...)
	return slices.DeleteFunc(list, func(h store.Handin) bool { return h.Person.Role != store.Learner }), err
}

// tell sums up what hand-ins, one of each learner, have in common.
func tell(e *exercise.Exercise, list []store.Handin) (client.Insight, error) {
	out := client.Insight{Handins: len(list), Scenarios: []client.ScenarioInsight{}, Differences: []client.CommonSlip{},
		Alike: []client.Alike{}}
	passed := map[string]client.ScenarioInsight{}
	var order []string
	slips := map[string]*client.CommonSlip{}
	groups := map[string][]client.HandinShort{}
	for _, h := range list {
		var r grade.Result
		if err := json.Unmarshal(h.Result.Result, &r); err != nil {
			return out, fmt.Errorf("reading result %d: %w", h.ID, err)
		}
		short := client.HandinShort{ID: h.ID, Person: h.Person.Name}
		for _, sc := range r.Scenarios {
			n, known := passed[sc.Name]
			if !known {
				order = append(order, sc.Name)
			}
			n.Name, n.Points, n.Of = sc.Name, number(sc.Points), n.Of+1
			if sc.Earned == sc.Points {
				n.Passed++
			}
			passed[sc.Name] = n
		}
		if slip := firstSlip(r); slip != nil {
			key := slip.Scenario + "\x00" + slip.Signal + "\x00" + slip.Say
			if slips[key] == nil {
				slips[key] = slip
			}
			slips[key].Handins = append(slips[key].Handins, short)
		}
		key := fingerprint(e, h)
		groups[key] = append(groups[key], short)
	}
	for _, name := range order {
		out.Scenarios = append(out.Scenarios, passed[name])
	}
	for _, s := range slips {
		out.Differences = append(out.Differences, *s)
	}
	slices.SortFunc(out.Differences, func(a, b client.CommonSlip) int {
		return cmp.Or(len(b.Handins)-len(a.Handins), cmp.Compare(a.Handins[0].ID, b.Handins[0].ID))
	})
	for key, g := range groups {
		if key != "" && len(g) > 1 {
			out.Alike = append(out.Alike, client.Alike{Handins: g})
		}
	}
	slices.SortFunc(out.Alike, func(a, b client.Alike) int {
		return cmp.Or(len(b.Handins)-len(a.Handins), cmp.Compare(a.Handins[0].ID, b.Handins[0].ID))
	})
	return out, nil
}

// firstSlip is the first difference of the first scenario that has one.
func firstSlip(r grade.Result) *client.CommonSlip {
	for _, sc := range r.Scenarios {
		var first *client.CommonSlip
		for _, g := range sc.Signals {
			if d := g.Difference; d != nil && (first == nil || d.Scan < first.Scan) {
				words := "At scan %d (%s) it should be %v and was %v."
				if g.Drawn {
					words = "At scan %d (%s) it is %v and was drawn %v."
				}
				first = &client.CommonSlip{Scenario: sc.Name, Signal: g.Signal, Scan: d.Scan,
					Say: fmt.Sprintf(words, d.Scan, d.Time, spoken(d.Expected), spoken(d.Actual))}
			}
		}
		if first == nil && sc.Fault != nil {
			first = &client.CommonSlip{Scenario: sc.Name, Scan: sc.Fault.Scan, Say: sc.Fault.Message}
		}
		if first != nil {
			return first
		}
	}
	return nil
}

// spoken writes TRUE and FALSE as people do.
func spoken(v any) any {
	if b, ok := v.(bool); ok {
		if b {
			return "TRUE"
		}
		return "FALSE"
	}
	return v
}

// fingerprint is "" where a hand-in cannot be read.
func fingerprint(e *exercise.Exercise, h store.Handin) string {
	tree, problems := syntax.Parse(source.NewFile(h.File, h.Text))
	if problems.HasErrors() || e == nil {
		return ""
	}
	var points []string
	for _, p := range append(slices.Clone(e.Inputs), e.Outputs...) {
		points = append(points, p.Name)
	}
	return likeness.Fingerprint(tree, points)
}
