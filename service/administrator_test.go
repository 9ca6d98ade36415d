package service_test

import (
	"log/slog"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/service"
	"celandine/service/servicetest"
)

// On an empty database the first administrator joins with a code, and goes on from there; one who lost the password gets another.
func TestFirstAdministrator(t *testing.T) {
	c := service.Config{Database: servicetest.Database(t), Log: slog.New(slog.DiscardHandler)}
	_, err := service.Administrator(t.Context(), c, "rosa", "")
	assert.EqualError(t, err, "nobody has the login rosa yet; say the name as well")
	code, err := service.Administrator(t.Context(), c, "rosa", "Rosa Lindner")
	require.NoError(t, err)
	again, err := service.Administrator(t.Context(), c, "rosa", "")
	require.NoError(t, err)

	s := servicetest.StartOn(t, c.Database)
	anybody := &client.Client{URL: s.URL}
	_, err = anybody.Join(t.Context(), client.Joining{Code: code, Password: "sunflowers grow"})
	assert.Error(t, err, "another code took its place")
	p, err := anybody.Join(t.Context(), client.Joining{Code: again, Password: "sunflowers grow"})
	require.NoError(t, err)
	assert.Equal(t, "administrator", p.Role)
	token, err := anybody.Login(t.Context(), client.TokenWish{Credentials: client.Credentials{Login: "rosa", Password: "sunflowers grow"}})
	require.NoError(t, err)
	anybody.Token = token.Token
	_, err = anybody.AddPerson(t.Context(), client.NewPerson{Login: "nadia", Name: "Nadia Brandt", Role: "instructor"})
	require.NoError(t, err)

	_, err = service.Administrator(t.Context(), c, "nadia", "Nadia Brandt")
	assert.EqualError(t, err, "nadia is the login of Nadia Brandt, who is no administrator (instructor)")
	_, err = service.Administrator(t.Context(), c, "Ro sa", "Rosa")
	assert.ErrorContains(t, err, "is not possible")
}
