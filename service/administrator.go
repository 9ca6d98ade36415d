package service

import (
	"context"
	"errors"
	"fmt"
	"time"

	"celandine/service/auth"
	"celandine/service/roster"
	"celandine/service/store"
)

// Administrator adds an administrator, the first of a new service above all, or gives one who lost the password another code.
// It returns the join code, which is shown once. Whoever may read the database's address may do this; the log says that it was
// done at the service's machine.
func Administrator(ctx context.Context, c Config, login, name string) (code string, err error) {
	if problem := roster.Login(login); problem != "" {
		return "", errors.New(problem)
	}
	s, err := records(ctx, c)
	if err != nil {
		return "", err
	}
	defer s.Close()
	code = auth.NewCode()
	expires := time.Now().Add(auth.JoinLife)
	p, err := s.PersonByLogin(ctx, login)
	switch {
	case err == nil && p.Role != store.Administrator:
		return "", fmt.Errorf("%s is the login of %s, who is no administrator (%s)", p.Login, p.Name, p.Role)
	case err == nil:
		return code, s.IssueCode(ctx, 0, 0, p, auth.Normal(code), expires)
	case !errors.Is(err, store.ErrNotFound):
		return "", err
	case name == "":
		return "", fmt.Errorf("nobody has the login %s yet; say the name as well", login)
	}
	_, err = s.AddPerson(ctx, 0, store.Person{Login: login, Name: name, Role: store.Administrator}, auth.Normal(code), expires)
	return code, err
}
