//go:build !editor

package signal

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strconv"
	"time"
)

// MarshalJSON writes a trace as {"period", "scans", "signals": [{"name",
// "type", "segments": [[scan, value, slope], …]}]}. A BOOL's value is 0 or 1 and a
// TIME's is in nanoseconds, as is the period. A STRING's is a place in its "texts", as is an
// enumeration's, whose texts are its names. A real that is no number or infinite is written as a string.
func (t *Trace) MarshalJSON() ([]byte, error) {
	out := jsonTrace{Period: int64(t.Period), Scans: t.Scans, Signals: []jsonColumn{}, Acts: t.Acts}
	for _, c := range t.Columns {
		segments := c.Segments()
		j := jsonColumn{Name: c.Name, Type: c.Kind.String(), Texts: c.Texts, Segments: make([][3]any, 0, len(segments))}
		for _, s := range segments {
			var v any = s.Value
			if c.Kind == Real || c.Kind == Uint {
				v = c.Kind.JSON(s.Value)
			}
			j.Segments = append(j.Segments, [3]any{s.Scan, v, s.Slope})
		}
		out.Signals = append(out.Signals, j)
	}
	return json.Marshal(out)
}

type jsonTrace struct {
	Period  int64        `json:"period"`
	Scans   int          `json:"scans"`
	Signals []jsonColumn `json:"signals"`
	Acts    []Act        `json:"acts,omitempty"`
}

type jsonColumn struct {
	Name     string   `json:"name"`
	Type     string   `json:"type"`
	Texts    []string `json:"texts,omitempty"` // of a STRING: what its values are places in
	Segments [][3]any `json:"segments"`
}

// UnmarshalJSON reads what MarshalJSON writes.
func (t *Trace) UnmarshalJSON(text []byte) error {
	var in struct {
		Period  int64
		Scans   int
		Signals []struct {
			Name     string
			Type     string
			Texts    []string
			Segments [][3]any
		}
		Acts []Act
	}
	d := json.NewDecoder(bytes.NewReader(text))
	d.UseNumber()
	if err := d.Decode(&in); err != nil {
		return fmt.Errorf("reading a trace: %w", err)
	}
	*t = Trace{Period: time.Duration(in.Period), Scans: in.Scans, Acts: in.Acts}
	for _, s := range in.Signals {
		c := &Column{Name: s.Name, Texts: s.Texts}
		for k, name := range kindNames {
			if name == s.Type {
				c.Kind = Kind(k)
			}
		}
		for _, seg := range s.Segments {
			scan, _ := strconv.Atoi(fmt.Sprint(seg[0]))
			slope, _ := strconv.ParseInt(fmt.Sprint(seg[2]), 10, 64)
			value, err := c.Kind.parseJSON(fmt.Sprint(seg[1]))
			if err != nil {
				return fmt.Errorf("reading signal %s: %w", s.Name, err)
			}
			c.segments = append(c.segments, Segment{scan, value, slope})
		}
		t.Columns = append(t.Columns, c)
	}
	return nil
}

func (k Kind) parseJSON(n string) (int64, error) {
	if k == Real || k == Uint {
		return k.Parse(n)
	}
	return strconv.ParseInt(n, 10, 64)
}
