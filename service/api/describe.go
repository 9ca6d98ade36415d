package api

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"reflect"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/core/grade"
	"celandine/release"
)

// describe sets what the OpenAPI document says of all operations, and how bodies are read.
func describe(config *huma.Config) {
	config.Info.Version = release.Version()
	config.Info.Description = "Exercises, hand-ins and marks for classes that learn programmable controllers. Sign in with POST " +
		"/api/session (a cookie) or POST /api/tokens (a bearer token)."
	config.Info.License = &huma.License{Name: "All rights reserved", Identifier: "LicenseRef-all-rights-reserved"}
	config.Servers = []*huma.Server{{URL: "/", Description: "The service that answers with this document."}}
	config.Components.SecuritySchemes = map[string]*huma.SecurityScheme{
		"session": {Type: "apiKey", In: "cookie", Name: "celandine", Description: "What POST /api/session and POST /api/join set."},
		"token":   {Type: "http", Scheme: "bearer", Description: "What POST /api/tokens gives: cel_…"},
	}
	config.OnAddOperation = append(config.OnAddOperation, refusals)
	config.Formats = map[string]huma.Format{"application/json": legibly(huma.DefaultJSONFormat), "json": legibly(huma.DefaultJSONFormat)}
}

// refusals tells of each operation who may ask and how it refuses.
func refusals(_ *huma.OpenAPI, op *huma.Operation) {
	codes := []int{http.StatusBadRequest, http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound, http.StatusUnprocessableEntity,
		http.StatusTooManyRequests, http.StatusServiceUnavailable}
	if op.RequestBody != nil {
		codes = append(codes, http.StatusConflict, http.StatusRequestEntityTooLarge)
	}
	op.Security = []map[string][]string{{"session": {}}, {"token": {}}}
	if strangers[op.OperationID] {
		op.Security = []map[string][]string{}
	}
	for _, code := range codes {
		op.Responses[fmt.Sprint(code)] = &huma.Response{Description: http.StatusText(code), Content: map[string]*huma.MediaType{
			"application/problem+json": {Schema: &huma.Schema{Ref: "#/components/schemas/Problem"}}}}
	}
}

// typed says what results and traces are, which the service passes on as the core has written them.
func typed(api huma.API) {
	schemas := api.OpenAPI().Components.Schemas
	for _, name := range []string{"Handin", "Key"} {
		of := schemas.Map()[name]
		of.Properties["result"] = schemas.Schema(reflect.TypeFor[client.Result](), true, "Result")
		of.Properties["evidence"] = schemas.Schema(reflect.TypeFor[[]client.Evidence](), true, "Evidence")
	}
	three := 3
	schemas.Map()["Column"].Properties["segments"].Items = &huma.Schema{Type: huma.TypeArray, MinItems: &three, MaxItems: &three,
		Extensions: map[string]any{
			"prefixItems": []*huma.Schema{{Type: huma.TypeInteger}, {OneOf: []*huma.Schema{{Type: huma.TypeNumber}, {Type: huma.TypeString}}},
				{Type: huma.TypeNumber}},
		}}
	for _, path := range api.OpenAPI().Paths {
		if path.Get == nil {
			continue
		}
		// A stream of one kind of event is described as a choice of one.
		stream := path.Get.Responses["200"].Content["text/event-stream"]
		if stream == nil {
			continue
		}
		if kinds, ok := stream.Schema.Items.Extensions["oneOf"].([]*huma.Schema); ok && len(kinds) == 1 {
			stream.Schema.Items = kinds[0]
		}
	}
}

var errIllegible = errors.New("the body holds bytes that are no letters")

// legibly reads a body only if PostgreSQL could keep its texts: JSON lets bytes pass that are no letters, and a zero byte.
func legibly(f huma.Format) huma.Format {
	return huma.Format{Marshal: f.Marshal, Unmarshal: func(text []byte, into any) error {
		if !utf8.Valid(text) || holdsZero(text) {
			return errIllegible
		}
		return f.Unmarshal(text, into)
	}}
}

// holdsZero reports JSON in which a text has a zero byte, which is written \u0000.
func holdsZero(text []byte) bool {
	for i := 0; i+1 < len(text); i++ {
		if text[i] != '\\' {
			continue
		}
		if i+5 < len(text) && string(text[i:i+6]) == `\u0000` {
			return true
		}
		i++ // what is escaped escapes nothing
	}
	return false
}

// version answers which Celandine this is.
func version(w http.ResponseWriter, _ *http.Request) {
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(client.Version{Version: release.Version(), Engine: grade.Engine}) // whoever asked has gone
}
