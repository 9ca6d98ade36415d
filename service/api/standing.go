package api

import (
	"celandine/core/exercise"
	"celandine/service/rules"
	"celandine/service/store"
)

// place is a person's place in the grid of marks.
type place struct{ assignment, person int64 }

// standing is how a person stands to an assignment: the mark that counts, and where it comes from.
type standing struct {
	handins int
	counted exercise.Marks
	handin  int64 // that counts; 0 while none is graded
	late    int   // days
	byHand  bool
}

func (s standing) mark() *float64 {
	if s.handin == 0 {
		return nil
	}
	counted := number(s.counted)
	return &counted
}

// standings works out everybody's marks from all hand-ins, which come in the order of handing in.
func standings(class store.Class, assignments []store.Assignment, attempts []store.Attempt) map[place]standing {
	terms := map[int64]rules.Terms{}
	zone := class.Zone()
	for _, a := range assignments {
		terms[a.ID] = a.Rules(zone)
	}
	grouped := map[place][]store.Attempt{}
	for _, a := range attempts {
		key := place{a.AssignmentID, a.PersonID}
		grouped[key] = append(grouped[key], a)
	}
	out := map[place]standing{}
	for key, list := range grouped {
		out[key] = stand(class.Counts, terms[key.assignment], list)
	}
	return out
}

func stand(rule string, terms rules.Terms, list []store.Attempt) standing {
	out := standing{handins: list[0].Handins}
	graded := make([]rules.Graded, len(list))
	for i, a := range list {
		if a.Earned != nil {
			graded[i] = rules.Graded{Counted: terms.Counted(*a.Earned, a.CreatedAt), Ready: true}
		}
		if a.Override != nil {
			graded[i] = rules.Graded{Counted: *a.Override, Ready: true}
		}
	}
	if i := rules.Counts(rule, graded); i >= 0 {
		out.counted, out.handin, out.late, out.byHand = graded[i].Counted, list[i].HandinID, terms.DaysLate(list[i].CreatedAt),
			list[i].Override != nil
	}
	return out
}
