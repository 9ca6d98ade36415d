package client

import (
	"context"
	"fmt"
)

// Lessons lists what an exercise can begin with.
func (c *Client) Lessons(ctx context.Context) (list []Lesson, err error) {
	return list, c.call(ctx, "GET", "/api/lessons", nil, &list)
}

// Begin begins an exercise.
func (c *Client) Begin(ctx context.Context, b Beginning) (w Writing, err error) {
	return w, c.call(ctx, "POST", "/api/library", b, &w)
}

// Writing reads an exercise as it is being written.
func (c *Client) Writing(ctx context.Context, owner, exercise string) (w Writing, err error) {
	return w, c.call(ctx, "GET", ofOwner(owner, exercise, "/writing"), nil, &w)
}

// SaveWriting saves what changed of an exercise over the version that one knows.
func (c *Client) SaveWriting(ctx context.Context, owner, exercise string, s Saving) (w Writing, err error) {
	return w, c.call(ctx, "PUT", ofOwner(owner, exercise, "/writing"), s, &w)
}

// DiscardWriting forgets what was written since the newest revision.
func (c *Client) DiscardWriting(ctx context.Context, owner, exercise string) error {
	return c.call(ctx, "DELETE", ofOwner(owner, exercise, "/writing"), nil, nil)
}

// Publish makes what was written the next revision.
func (c *Client) Publish(ctx context.Context, owner, exercise string, what Publishing) (p Pushed, err error) {
	return p, c.call(ctx, "POST", ofOwner(owner, exercise, "/revisions"), what, &p)
}

// Revisions lists an exercise's revisions, the newest first.
func (c *Client) Revisions(ctx context.Context, owner, exercise string) (list []Revision, err error) {
	return list, c.call(ctx, "GET", ofOwner(owner, exercise, "/revisions"), nil, &list)
}

// Revision reads the folder of a revision.
func (c *Client) Revision(ctx context.Context, owner, exercise string, number int) (f Folder, err error) {
	return f, c.call(ctx, "GET", ofOwner(owner, exercise, fmt.Sprintf("/revisions/%d", number)), nil, &f)
}

// Zip reads an exercise, as it is being written, as a zip of its folder.
func (c *Client) Zip(ctx context.Context, owner, exercise string) ([]byte, error) {
	return c.file(ctx, ofOwner(owner, exercise, "/zip"))
}

// Differences tells in words what changed from one revision, 0 for the newest, to another, 0 for what was written since.
func (c *Client) Differences(ctx context.Context, owner, exercise string, from, to int) (list []string, err error) {
	return list, c.call(ctx, "GET", ofOwner(owner, exercise, fmt.Sprintf("/differences?from=%d&to=%d", from, to)), nil, &list)
}

// TryMarks tells which marks of a class would move with what was written.
func (c *Client) TryMarks(ctx context.Context, owner, exercise string, class int64) (r Regraded, err error) {
	return r, c.call(ctx, "POST", ofOwner(owner, exercise, "/trial"), ForClass{class}, &r)
}

// Give lets a class work on the newest revision.
func (c *Client) Give(ctx context.Context, owner, exercise string, class int64) error {
	return c.call(ctx, "POST", ofOwner(owner, exercise, "/classes"), ForClass{class}, nil)
}

// Withdraw takes an exercise away from learners, or, with back, lets it be offered again.
func (c *Client) Withdraw(ctx context.Context, owner, exercise string, back bool) error {
	method := "PUT"
	if back {
		method = "DELETE"
	}
	return c.call(ctx, method, ofOwner(owner, exercise, "/withdrawal"), nil, nil)
}
