package api

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"fmt"
	"io"
	"strconv"
	"strings"

	"celandine/client"
)

// The parts of a workbook of one sheet that are the same in each (ECMA-376, part 1, 12 and 18). A library that reads and writes
// every workbook there is was a sixth of what a first build compiled.
var workbookParts = map[string]string{
	"[Content_Types].xml": `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">` +
		`<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>` +
		`<Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/>` +
		`<Override PartName="/xl/worksheets/sheet1.xml" ` +
		`ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/></Types>`,
	"_rels/.rels": `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">` +
		`<Relationship Id="rId1" ` +
		`Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
	"xl/workbook.xml": `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" ` +
		`xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships">` +
		`<sheets><sheet name="Marks" sheetId="1" r:id="rId1"/></sheets></workbook>`,
	"xl/_rels/workbook.xml.rels": `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">` +
		`<Relationship Id="rId1" ` +
		`Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`,
}

// The sheet's head: two columns and two rows stay in sight, names have room.
const sheetHead = `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">` +
	`<sheetViews><sheetView workbookViewId="0">` +
	`<pane xSplit="2" ySplit="2" topLeftCell="C3" activePane="bottomRight" state="frozen"/></sheetView></sheetViews>` +
	`<cols><col min="2" max="2" width="24" customWidth="1"/></cols><sheetData>`

// workbook writes marks as numbers and names as texts, which no spreadsheet takes for a formula.
func workbook(m client.Marks) ([]byte, error) {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, name := range []string{"[Content_Types].xml", "_rels/.rels", "xl/workbook.xml", "xl/_rels/workbook.xml.rels"} {
		if err := writePart(z, name, workbookParts[name]); err != nil {
			return nil, err
		}
	}
	if err := writePart(z, "xl/worksheets/sheet1.xml", sheetHead+cells(marksTable(m))+`</sheetData></worksheet>`); err != nil {
		return nil, err
	}
	if err := z.Close(); err != nil {
		return nil, fmt.Errorf("writing a workbook: %w", err)
	}
	return out.Bytes(), nil
}

func writePart(z *zip.Writer, name, text string) error {
	w, err := z.Create(name)
	if err == nil {
		_, err = io.WriteString(w, xml.Header+text)
	}
	if err != nil {
		return fmt.Errorf("writing %s of a workbook: %w", name, err)
	}
	return nil
}

// marksTable has a row for each learner below the exercises' titles and points; a cell is a string, a float64, or nil where
// there is no mark.
func marksTable(m client.Marks) [][]any {
	rows := [][]any{{"Login", "Name"}, {"", "points"}}
	for _, e := range m.Exercises {
		rows[0] = append(rows[0], e.Title)
		rows[1] = append(rows[1], e.Points)
	}
	for _, row := range m.Rows {
		line := []any{row.Person.Login, row.Person.Name}
		for _, mark := range row.Marks {
			if mark.Earned == nil {
				line = append(line, nil)
				continue
			}
			line = append(line, *mark.Earned)
		}
		rows = append(rows, line)
	}
	return rows
}

// cells writes rows as a sheet has them.
func cells(rows [][]any) string {
	var b strings.Builder
	for n, row := range rows {
		fmt.Fprintf(&b, `<row r="%d">`, n+1)
		for column, value := range row {
			at := columnName(column) + strconv.Itoa(n+1)
			switch v := value.(type) {
			case string:
				fmt.Fprintf(&b, `<c r="%s" t="inlineStr"><is><t xml:space="preserve">`, at)
				_ = xml.EscapeText(&b, []byte(v)) // a builder takes everything
				b.WriteString(`</t></is></c>`)
			case float64:
				fmt.Fprintf(&b, `<c r="%s"><v>%s</v></c>`, at, strconv.FormatFloat(v, 'g', -1, 64))
			}
		}
		b.WriteString(`</row>`)
	}
	return b.String()
}

// columnName is A for 0, Z for 25, AA for 26.
func columnName(column int) string {
	name := ""
	for n := column + 1; n > 0; n = (n - 1) / 26 {
		name = string(rune('A'+(n-1)%26)) + name
	}
	return name
}
