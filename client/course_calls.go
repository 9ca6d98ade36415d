package client

import (
	"context"
	"io"
	"net/url"
)

func ofCourse(owner, name, rest string) string {
	return "/api/courses/" + url.PathEscape(owner) + "/" + url.PathEscape(name) + rest
}

// Courses lists one's courses.
func (c *Client) Courses(ctx context.Context) (list []Course, err error) {
	return list, c.call(ctx, "GET", "/api/courses", nil, &list)
}

// Course reads a course.
func (c *Client) Course(ctx context.Context, owner, name string) (course Course, err error) {
	return course, c.call(ctx, "GET", ofCourse(owner, name, ""), nil, &course)
}

// SaveCourse makes a course, or changes it over the version that one knows.
func (c *Client) SaveCourse(ctx context.Context, owner, name string, s CourseSettings) (course Course, err error) {
	return course, c.call(ctx, "PUT", ofCourse(owner, name, ""), s, &course)
}

// RemoveCourse forgets a course; its exercises stay.
func (c *Client) RemoveCourse(ctx context.Context, owner, name string) error {
	return c.call(ctx, "DELETE", ofCourse(owner, name, ""), nil, nil)
}

// ImportCourse stores a course with its exercises from a zip.
func (c *Client) ImportCourse(ctx context.Context, zip []byte) (course Course, err error) {
	return course, c.call(ctx, "POST", "/api/courses", Archive{zip}, &course)
}

// CourseZip reads a course with its exercises as one zip.
func (c *Client) CourseZip(ctx context.Context, owner, name string) ([]byte, error) {
	return c.file(ctx, ofCourse(owner, name, "/zip"))
}

// GiveCourse lets a class work on all exercises of a course.
func (c *Client) GiveCourse(ctx context.Context, owner, name string, class int64) error {
	return c.call(ctx, "POST", ofCourse(owner, name, "/classes"), ForClass{class}, nil)
}

// file reads what the service gives as a file.
func (c *Client) file(ctx context.Context, path string) ([]byte, error) {
	r, err := c.request(ctx, "GET", path, nil)
	if err != nil {
		return nil, err
	}
	response, err := c.send(r)
	if err != nil {
		return nil, err
	}
	defer response.Body.Close()
	return io.ReadAll(response.Body)
}
