package api

import (
	"context"
	"net/http"
	"path"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/core/source"
	"celandine/core/syntax"
	"celandine/core/xmlio"
)

// mostOfProgram is how many bytes a request with a program may have: an exchange file, with what JSON adds to it.
const mostOfProgram = 2 * xmlio.MaxSize

func (s *service) exchange(api huma.API) {
	tags := []string{"exchange"}
	add := func(id, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, Tags: tags, MaxBodyBytes: mostOfProgram}
	}
	huma.Register(api, add("readExchange", "/api/exchange/read", "Say in Celandine's notation what an exchange file holds"), s.readExchange)
	huma.Register(api, add("writeExchange", "/api/exchange/write", "Write a program as an exchange file"), s.writeExchange)
}

// sourceOf is the text that was sent, or the program in the exchange file that was.
func sourceOf(p client.Program) *source.File {
	f := source.NewFile(p.File, p.Text)
	if xmlio.Is(p.File) {
		return xmlio.Read(f)
	}
	return f
}

// asText puts the program in an exchange file in place of the file. What cannot be read is refused, with every reason.
func asText(p *client.Program) error {
	if !xmlio.Is(p.File) {
		return nil
	}
	f := sourceOf(*p)
	if !f.Told().HasErrors() {
		p.File, p.Text = xmlio.Named(f)
		return nil
	}
	var details []error
	for _, d := range f.Told() {
		message := d.Message
		if d.Hint != "" {
			message += " " + d.Hint
		}
		details = append(details, &huma.ErrorDetail{Message: message, Location: d.Span.String()})
	}
	return huma.Error422UnprocessableEntity("This exchange file cannot be read; nothing was stored.", details...)
}

func (s *service) readExchange(ctx context.Context, in *from[client.Program]) (*body[client.Exchanged], error) {
	if _, err := s.signedIn(ctx); err != nil {
		return nil, err
	}
	f := xmlio.Read(source.NewFile(in.Body.File, in.Body.Text))
	out := client.Exchanged{File: in.Body.File, Diagnostics: diagnostics(f.Told())}
	if !f.Told().HasErrors() && xmlio.Is(f.Name) {
		out.File, out.Text = xmlio.Named(f)
	}
	return &body[client.Exchanged]{out}, nil
}

func (s *service) writeExchange(ctx context.Context, in *from[client.Exporting]) (*body[client.Exchanged], error) {
	if _, err := s.signedIn(ctx); err != nil {
		return nil, err
	}
	if len(in.Body.Text) > syntax.MaxSize {
		return nil, tooLarge()
	}
	text, problems := xmlio.Write(xmlio.Form(in.Body.Form), source.NewFile(in.Body.File, in.Body.Text), nil)
	name := strings.TrimSuffix(in.Body.File, path.Ext(in.Body.File)) + ".xml"
	return &body[client.Exchanged]{client.Exchanged{File: name, Text: text, Diagnostics: diagnostics(problems)}}, nil
}
