package client

import (
	"context"
	"fmt"
	"net/url"
	"time"
)

func ofClass(class int64, rest string) string { return fmt.Sprintf("/api/classes/%d%s", class, rest) }

// Me returns who is signed in.
func (c *Client) Me(ctx context.Context) (p Person, err error) {
	return p, c.call(ctx, "GET", "/api/me", nil, &p)
}

// Join chooses a password with a join code.
func (c *Client) Join(ctx context.Context, j Joining) (p Person, err error) {
	return p, c.call(ctx, "POST", "/api/join", j, &p)
}

// Classes lists one's classes.
func (c *Client) Classes(ctx context.Context) (list []Class, err error) {
	return list, c.call(ctx, "GET", "/api/classes", nil, &list)
}

// MakeClass makes a class and teaches it.
func (c *Client) MakeClass(ctx context.Context, s ClassSettings) (made Class, err error) {
	return made, c.call(ctx, "POST", "/api/classes", s, &made)
}

// ChangeClass changes a class's settings.
func (c *Client) ChangeClass(ctx context.Context, class int64, s ClassSettings) (changed Class, err error) {
	return changed, c.call(ctx, "PUT", ofClass(class, ""), s, &changed)
}

// Members lists a class's people.
func (c *Client) Members(ctx context.Context, class int64) (list []Member, err error) {
	return list, c.call(ctx, "GET", ofClass(class, "/members"), nil, &list)
}

// AddMember enrols somebody who has a login.
func (c *Client) AddMember(ctx context.Context, class int64, login string) error {
	return c.call(ctx, "POST", ofClass(class, "/members"), LoginOnly{login}, nil)
}

// RemoveMember takes somebody out of a class.
func (c *Client) RemoveMember(ctx context.Context, class int64, login string) error {
	return c.call(ctx, "DELETE", ofClass(class, "/members/"+url.PathEscape(login)), nil, nil)
}

// IssueCode gives a learner a new join code.
func (c *Client) IssueCode(ctx context.Context, class int64, login string) (j JoinCode, err error) {
	return j, c.call(ctx, "POST", ofClass(class, "/members/"+url.PathEscape(login)+"/code"), nil, &j)
}

// Enrol enrols a class list, all of it or nothing.
func (c *Client) Enrol(ctx context.Context, class int64, r Roster) (e Enrolled, err error) {
	return e, c.call(ctx, "POST", ofClass(class, "/roster"), r, &e)
}

// Assignments lists a class's exercises with their terms.
func (c *Client) Assignments(ctx context.Context, class int64) (list []Assignment, err error) {
	return list, c.call(ctx, "GET", ofClass(class, "/assignments"), nil, &list)
}

// Assign changes an assignment's terms.
func (c *Client) Assign(ctx context.Context, class int64, exercise string, t Terms) (a Assignment, err error) {
	return a, c.call(ctx, "PUT", ofClass(class, "/assignments/"+url.PathEscape(exercise)), t, &a)
}

// Take lets a class work on exercises of another, and lists what it works on then.
func (c *Client) Take(ctx context.Context, class int64, t Taking) (list []Assignment, err error) {
	return list, c.call(ctx, "POST", ofClass(class, "/assignments"), t, &list)
}

// Start begins a timed exercise.
func (c *Client) Start(ctx context.Context, exercise string) (s Summary, err error) {
	return s, c.call(ctx, "POST", "/api/exercises/"+url.PathEscape(exercise)+"/start", nil, &s)
}

// Override gives a mark by hand.
func (c *Client) Override(ctx context.Context, handin int64, o Overruling) (h Handin, err error) {
	return h, c.call(ctx, "PUT", fmt.Sprintf("/api/handins/%d/override", handin), o, &h)
}

// TakeBack takes a mark given by hand back.
func (c *Client) TakeBack(ctx context.Context, handin int64) error {
	return c.call(ctx, "DELETE", fmt.Sprintf("/api/handins/%d/override", handin), nil, nil)
}

// Comment says something about a hand-in.
func (c *Client) Comment(ctx context.Context, handin int64, r Remark) (said Comment, err error) {
	return said, c.call(ctx, "POST", fmt.Sprintf("/api/handins/%d/comments", handin), r, &said)
}

// Regrade grades again: a preview, or with its key the storing of it.
func (c *Client) Regrade(ctx context.Context, class int64, r Regrading) (out Regraded, err error) {
	return out, c.callWithin(ctx, 15*time.Minute, "POST", ofClass(class, "/regrade"), r, &out)
}

// Insight returns what a class's counting hand-ins to an exercise tell.
func (c *Client) Insight(ctx context.Context, class int64, exercise string) (i Insight, err error) {
	return i, c.call(ctx, "GET", ofClass(class, "/insight/"+url.PathEscape(exercise)), nil, &i)
}

// Hint says something to everybody in a class whose counting hand-in behaves like a known mistake.
func (c *Client) Hint(ctx context.Context, class int64, exercise string, h Hinting) (n Hinted, err error) {
	return n, c.call(ctx, "POST", ofClass(class, "/insight/"+url.PathEscape(exercise)+"/hint"), h, &n)
}

// Audit reads a page of a class's audit log, newest first.
func (c *Client) Audit(ctx context.Context, class int64, after string, limit int) (p Page[AuditEntry], err error) {
	return p, c.call(ctx, "GET", ofClass(class, fmt.Sprintf("/audit?limit=%d&after=%s", limit, url.QueryEscape(after))), nil, &p)
}

// People lists a page of everybody.
func (c *Client) People(ctx context.Context, with, after string, limit int) (p Page[Member], err error) {
	return p, c.call(ctx, "GET", fmt.Sprintf("/api/people?limit=%d&with=%s&after=%s", limit, url.QueryEscape(with), url.QueryEscape(after)),
		nil, &p)
}

// AddPerson adds somebody with a join code.
func (c *Client) AddPerson(ctx context.Context, p NewPerson) (j JoinCode, err error) {
	return j, c.call(ctx, "POST", "/api/people", p, &j)
}

// Disable ends or restores somebody's sign-in.
func (c *Client) Disable(ctx context.Context, login string, disabled bool) (m Member, err error) {
	return m, c.call(ctx, "PUT", "/api/people/"+url.PathEscape(login)+"/ability", Ability{disabled}, &m)
}

// ExportMarks returns a class's marks as a file of that kind: csv or xlsx.
func (c *Client) ExportMarks(ctx context.Context, class int64, kind string) ([]byte, error) {
	return c.file(ctx, ofClass(class, "/marks."+kind))
}

// IssueCodeTo gives somebody a new join code, whatever their classes.
func (c *Client) IssueCodeTo(ctx context.Context, login string) (j JoinCode, err error) {
	return j, c.call(ctx, "POST", "/api/people/"+url.PathEscape(login)+"/code", nil, &j)
}

func ofOwner(owner, name, rest string) string {
	return "/api/library/" + url.PathEscape(owner) + "/" + url.PathEscape(name) + rest
}

// Library lists the exercises that one owns or that are shared with one.
func (c *Client) Library(ctx context.Context) (list []Owned, err error) {
	return list, c.call(ctx, "GET", "/api/library", nil, &list)
}

// Folder reads the newest revision of an exercise that one may read.
func (c *Client) Folder(ctx context.Context, owner, name string) (f Folder, err error) {
	return f, c.call(ctx, "GET", ofOwner(owner, name, ""), nil, &f)
}

// Shares lists whom one's exercise is shared with.
func (c *Client) Shares(ctx context.Context, owner, name string) (list []Share, err error) {
	return list, c.call(ctx, "GET", ofOwner(owner, name, "/shares"), nil, &list)
}

// Share lets somebody read or change one's exercise.
func (c *Client) Share(ctx context.Context, owner, name, login, may string) (s Share, err error) {
	return s, c.call(ctx, "PUT", ofOwner(owner, name, "/shares/"+url.PathEscape(login)), Sharing{may}, &s)
}

// EndShare takes a share back.
func (c *Client) EndShare(ctx context.Context, owner, name, login string) error {
	return c.call(ctx, "DELETE", ofOwner(owner, name, "/shares/"+url.PathEscape(login)), nil, nil)
}

// Stuck lists hand-ins that wait for a mark that nobody works on.
func (c *Client) Stuck(ctx context.Context) (list []Stuck, err error) {
	return list, c.callWithin(ctx, 5*time.Minute, "GET", "/api/stuck", nil, &list)
}

// Requeue queues stuck hand-ins again.
func (c *Client) Requeue(ctx context.Context) (r Requeued, err error) {
	return r, c.callWithin(ctx, 5*time.Minute, "POST", "/api/stuck", nil, &r)
}
