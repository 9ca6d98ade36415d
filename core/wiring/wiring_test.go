package wiring_test

import (
	"encoding/xml"
	"flag"
	"io"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/core/wiring"
)

// A wiring plan has each point with its contact as it rests, and is well formed whatever the points are called.
func TestWiring(t *testing.T) {
	svg := wiring.Picture([]exercise.Point{
		{Name: "on", Address: "%IX0.0", Device: "button", Label: "Mist <ON> & more", Type: "BOOL"},
		{Name: "off", Address: "%IX0.1", Device: "switch", Closed: true, Label: "Off", Type: "BOOL"},
		{Name: "temp", Address: "%IW2", Device: "sensor", Label: "Bed", Type: "INT", Unit: "°C"},
	}, []exercise.Point{{Name: "valve", Address: "%QX0.0", Device: "valve", Label: "Bed 1", Type: "BOOL"}})
	d := xml.NewDecoder(strings.NewReader(svg))
	named := []string{}
	for {
		token, err := d.Token()
		if err == io.EOF {
			break
		}
		require.NoError(t, err)
		if start, ok := token.(xml.StartElement); ok {
			for _, a := range start.Attr {
				if a.Name.Local == "data-name" {
					named = append(named, a.Value)
				}
			}
		}
	}
	assert.Equal(t, []string{"on", "off", "temp", "valve"}, named)
	assert.Contains(t, svg, "<title>Off: switch at %IX0.1, normally closed: TRUE at rest</title>")
	assert.Equal(t, 2, strings.Count(svg, `class="rest"`), "only on/off inputs have a contact")
}

var update = flag.Bool("update", false, "write the picture anew, to be looked at")

// The picture in testdata is what is drawn, to the tenth of a pixel: a change of it is looked at.
func TestPictureStays(t *testing.T) {
	const path = "testdata/wiring.svg"
	svg := wiring.Picture([]exercise.Point{
		{Name: "on", Address: "%IX0.0", Device: "button", Label: "Mist ON", Type: "BOOL"},
		{Name: "off", Address: "%IX0.1", Device: "switch", Closed: true, Label: "Mist OFF", Type: "BOOL"},
		{Name: "temp", Address: "%IW2", Device: "sensor", Label: "Bed", Type: "INT", Unit: "°C"},
	}, []exercise.Point{
		{Name: "valve", Address: "%QX0.0", Device: "valve", Label: "Bed 1 mist", Type: "BOOL"},
		{Name: "fan", Address: "%QX0.1", Device: "motor", Label: "Roof vent", Type: "BOOL"},
		{Name: "lamp", Address: "%QX0.2", Device: "lamp", Label: "Lamp", Type: "BOOL"},
	})
	if *update {
		require.NoError(t, os.WriteFile(path, []byte(svg), 0o644))
	}
	want, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, string(want), svg, "-update writes it anew")
}
