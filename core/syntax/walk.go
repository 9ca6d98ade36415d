package syntax

import (
	"reflect"

	"celandine/core/source"
)

// Walk visits a tree, each node before what stands in it, as a pointer to it. Where visit returns false, what stands in a node is left out.
func Walk(node any, visit func(node any) bool) {
	everything(node, func(n any) bool {
		_, span := n.(*source.Span)
		return !span && visit(n)
	})
}

// everything visits the spans as well.
func everything(node any, visit func(node any) bool) { walk(reflect.ValueOf(node), visit) }

func walk(v reflect.Value, visit func(any) bool) {
	switch v.Kind() {
	case reflect.Interface:
		if !v.IsNil() {
			walk(v.Elem(), visit)
		}
	case reflect.Pointer:
		if !v.IsNil() && visit(v.Interface()) {
			fields(v.Elem(), visit)
		}
	case reflect.Slice:
		for i := range v.Len() {
			walk(v.Index(i), visit)
		}
	case reflect.Struct:
		if visit(v.Addr().Interface()) {
			fields(v, visit)
		}
	}
}

func fields(v reflect.Value, visit func(any) bool) {
	if v.Kind() != reflect.Struct {
		return
	}
	for i := range v.NumField() {
		if v.Type().Field(i).IsExported() {
			walk(v.Field(i), visit)
		}
	}
}
