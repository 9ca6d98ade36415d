package main

import (
	"fmt"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/courses"
	"celandine/folder"
	"celandine/service"
	"celandine/service/api"
	"celandine/web"
)

// outfit gives a service what is packed into the binary: the console, and the lessons that an exercise can begin with.
func outfit(c *service.Config) error {
	console, err := web.Handler()
	if err != nil {
		return err
	}
	course, err := courses.Glasshouse()
	if err != nil {
		return fmt.Errorf("reading the demo course: %w", err)
	}
	lessons, err := courses.Lessons()
	if err != nil {
		return err
	}
	c.Console, c.Lessons = console, api.Lessons{Folders: map[string]exercise.Files{}}
	for _, l := range lessons {
		files, err := folder.Read(course, "exercises/"+l.Exercise)
		if err != nil {
			return fmt.Errorf("reading the lesson %s: %w", l.Name, err)
		}
		c.Lessons.List = append(c.Lessons.List, client.Lesson{Name: l.Name, Title: l.Title, Behaviour: l.Behaviour, Exercise: l.Exercise})
		c.Lessons.Folders[l.Name] = files
	}
	return nil
}
