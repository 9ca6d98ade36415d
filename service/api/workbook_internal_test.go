package api

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"celandine/client"
)

// A workbook of more exercises than there are letters is read back by a library that knows nothing of how it was written.
func TestWorkbook(t *testing.T) {
	mark := 7.25
	m := client.Marks{Rows: []client.MarkRow{{Person: client.Person{Login: "noor", Name: "=1+1 <&> \x00"}}}}
	for range 30 {
		m.Exercises = append(m.Exercises, client.Summary{Title: "Hold in", Points: 10})
		m.Rows[0].Marks = append(m.Rows[0].Marks, client.Mark{})
	}
	m.Rows[0].Marks[28].Earned = &mark
	text, err := workbook(m)
	require.NoError(t, err)
	f, err := excelize.OpenReader(bytes.NewReader(text))
	require.NoError(t, err)
	for at, want := range map[string]string{"A1": "Login", "B3": "=1+1 <&> \ufffd", "C1": "Hold in", "AF2": "10", "AE3": "7.25", "AD3": ""} {
		value, err := f.GetCellValue("Marks", at)
		require.NoError(t, err)
		assert.Equal(t, want, value, at)
	}
	panes, err := f.GetPanes("Marks")
	require.NoError(t, err)
	assert.Equal(t, "C3", panes.TopLeftCell)
}

func TestColumnName(t *testing.T) {
	for column, want := range map[int]string{0: "A", 25: "Z", 26: "AA", 51: "AZ", 52: "BA", 701: "ZZ", 702: "AAA"} {
		assert.Equal(t, want, columnName(column))
	}
}
