package api

import (
	"net/http"
	"strconv"

	"celandine/client"
)

// listed answers with a list of the store, each record as the API tells it; where the store failed, with that.
func listed[T, U any](s *service, list []T, err error, as func(T) U) (*body[[]U], error) {
	if err != nil {
		return nil, s.told(err, "")
	}
	return &body[[]U]{each(list, as)}, nil
}

// each is records as the API tells them; none is an empty list.
func each[T, U any](list []T, as func(T) U) []U {
	out := make([]U, len(list))
	for i, one := range list {
		out[i] = as(one)
	}
	return out
}

// Paged asks for a stretch of a long list.
type Paged struct {
	After string `query:"after" maxLength:"100" example:"7" doc:"The next of the page before."`
	Limit int    `query:"limit" minimum:"1" maximum:"500" default:"100"`
}

// number is what a page is to begin after, where records are numbered.
func (p Paged) number() (int64, error) {
	if p.After == "" {
		return 0, nil
	}
	n, err := strconv.ParseInt(p.After, 10, 64)
	if err != nil {
		return 0, coded(http.StatusUnprocessableEntity, "page", "There is no page after "+p.After+". Send what the page before gave as next.")
	}
	return n, nil
}

// paged answers with a stretch of a list; next names its last record.
func paged[T, U any](s *service, p Paged, list []T, err error, as func(T) U, next func(T) string) (*body[client.Page[U]], error) {
	if err != nil {
		return nil, s.told(err, "")
	}
	out := client.Page[U]{Items: each(list, as)}
	if len(list) == p.Limit {
		out.Next = next(list[len(list)-1])
	}
	return &body[client.Page[U]]{out}, nil
}

func nextNumber(id int64) string { return strconv.FormatInt(id, 10) }
