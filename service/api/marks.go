package api

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"celandine/client"
	"celandine/service/auth"
	"celandine/service/store"
)

func (s *service) marks(api huma.API) {
	tags := []string{"marks"}
	huma.Register(api, huma.Operation{OperationID: "marks", Method: http.MethodGet, Path: "/api/marks",
		Summary: "The marks that stand: the class's for an instructor, one's own for a learner", Tags: tags},
		func(ctx context.Context, in *InClass) (*body[client.Marks], error) {
			m, _, err := s.grid(ctx, in.Class)
			return &body[client.Marks]{m}, err
		})
	huma.Register(api, huma.Operation{OperationID: "marksCSV", Method: http.MethodGet, Path: "/api/classes/{class}/marks.csv",
		Summary: "The class's marks as CSV", Tags: tags, Responses: file("text/csv")}, s.marksCSV)
	huma.Register(api, huma.Operation{OperationID: "marksXLSX", Method: http.MethodGet, Path: "/api/classes/{class}/marks.xlsx",
		Summary: "The class's marks as a spreadsheet", Tags: tags, Responses: file(spreadsheet)}, s.marksXLSX)
	sse.Register(api, huma.Operation{OperationID: "watchClass", Method: http.MethodGet, Path: "/api/classes/{class}/events",
		Summary: "Follow a class's hand-ins (server-sent events)", Tags: tags,
		Middlewares: s.beforehand(func(ctx context.Context, class int64) error { _, err := s.in(ctx, class, teacher); return err }, "class")},
		map[string]any{"progress": client.ClassProgress{}}, s.watchClass)
}

const spreadsheet = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"

func file(kind string) map[string]*huma.Response {
	return map[string]*huma.Response{"200": {Description: "OK",
		Content: map[string]*huma.MediaType{kind: {Schema: &huma.Schema{Type: "string", Format: "binary"}}}}}
}

// grid is the marks that a person may see in a class.
func (s *service) grid(ctx context.Context, class int64) (client.Marks, here, error) {
	h, err := s.in(ctx, class, member)
	if err != nil {
		return client.Marks{}, h, err
	}
	people, only, find := []store.Person{h.Person}, h.ID, s.Store.Assignments
	if h.teaches() {
		only, find = 0, s.Store.AllAssignments
		if people, err = s.Store.Learners(ctx, h.Class.ID); err != nil {
			return client.Marks{}, h, s.told(err, "")
		}
	}
	assignments, err := find(ctx, h.Class.ID)
	if err != nil {
		return client.Marks{}, h, s.told(err, "")
	}
	attempts, err := s.Store.Attempts(ctx, h.Class, only, 0)
	if err != nil {
		return client.Marks{}, h, s.told(err, "")
	}
	stand := standings(h.Class, assignments, attempts)
	out := client.Marks{Class: h.Class.Name, Exercises: []client.Summary{}, Rows: []client.MarkRow{}}
	for _, a := range assignments {
		out.Exercises = append(out.Exercises, summary(h, a, standing{}, nil))
	}
	for _, p := range people {
		row := client.MarkRow{Person: asPerson(p), Marks: []client.Mark{}}
		for _, a := range assignments {
			st := stand[place{a.ID, p.ID}]
			row.Marks = append(row.Marks, client.Mark{Handins: st.handins, Earned: st.mark(), Handin: st.handin, Late: st.late, ByHand: st.byHand})
		}
		out.Rows = append(out.Rows, row)
	}
	return out, h, nil
}

// taughtGrid is the marks of a class that one teaches.
func (s *service) taughtGrid(ctx context.Context, class int64) (client.Marks, error) {
	if _, err := s.in(ctx, class, teacher); err != nil {
		return client.Marks{}, err
	}
	m, _, err := s.grid(ctx, class)
	return m, err
}

type download struct {
	Kind string `header:"Content-Type"`
	Name string `header:"Content-Disposition"`
	Body []byte
}

func named(class, ending string) string {
	name := strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return '-'
	}, strings.ToLower(class))
	return `attachment; filename="marks-` + strings.Trim(name, "-") + ending + `"`
}

// harmless keeps a spreadsheet from taking a text for a formula.
func harmless(cell string) string {
	if cell != "" && strings.ContainsRune("=+-@\t\r", rune(cell[0])) {
		return "'" + cell
	}
	return cell
}

func (s *service) marksCSV(ctx context.Context, in *OfClass) (*download, error) {
	m, err := s.taughtGrid(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	header := []string{"login", "name"}
	for _, e := range m.Exercises {
		header = append(header, harmless(e.Name))
	}
	_ = w.Write(append(header, "sum")) // a buffer takes everything
	for _, row := range m.Rows {
		line := []string{harmless(row.Person.Login), harmless(row.Person.Name)}
		sum := 0.0
		for _, mark := range row.Marks {
			if mark.Earned == nil {
				line = append(line, "")
				continue
			}
			line = append(line, decimal(*mark.Earned))
			sum += *mark.Earned
		}
		_ = w.Write(append(line, decimal(sum)))
	}
	w.Flush()
	return &download{"text/csv; charset=utf-8", named(m.Class, ".csv"), out.Bytes()}, w.Error()
}

// decimal writes a mark of whole hundredths.
func decimal(mark float64) string {
	return strings.TrimSuffix(strings.TrimRight(fmt.Sprintf("%.2f", mark), "0"), ".")
}

func (s *service) marksXLSX(ctx context.Context, in *OfClass) (*download, error) {
	m, err := s.taughtGrid(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	out, err := workbook(m)
	if err != nil {
		return nil, s.told(err, "")
	}
	return &download{spreadsheet, named(m.Class, ".xlsx"), out}, nil
}

// readmitted is how often a stream asks whether its reader still may see what it tells.
const readmitted = 10 * time.Second

// watchClass tells how many hand-ins of a class are graded and waiting, whenever that changes.
func (s *service) watchClass(ctx context.Context, in *OfClass, send sse.Sender) {
	woken, done := s.Hub.Wait(classKey(in.ID))
	defer done()
	last, admitted := client.ClassProgress{Graded: -1}, time.Now()
	for {
		if time.Since(admitted) > readmitted {
			if !s.stillTeaches(ctx, in.ID) {
				return // the connection ends; the page asks again and is told why
			}
			admitted = time.Now()
		}
		now, err := s.Hub.classProgress(ctx, s.Store, in.ID)
		if err != nil {
			return
		}
		if now != last {
			last = now
			if send.Data(now) != nil {
				return
			}
		}
		if _, stays := s.pause(ctx, woken); !stays {
			return
		}
		time.Sleep(restBetween/2 + rand.N(restBetween)) // many hand-ins are told of together, and not all watchers at the same moment
	}
}

// stillTeaches asks again what was asked when a stream began: whether its sign-in holds, and its person belongs to the class.
func (s *service) stillTeaches(ctx context.Context, class int64) bool {
	in, ok := auth.SignIn(ctx)
	if !ok {
		return false
	}
	may, err := s.Store.MayWatch(store.Within(ctx, soon), in.ID, class)
	return err == nil && may
}
