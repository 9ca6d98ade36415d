package api_test

import (
	"fmt"
	"net/http"
	"net/netip"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"celandine/service"
	"celandine/service/servicetest"
)

// attempt signs in from an address, as a proxy tells it.
func attempt(t *testing.T, s *servicetest.Service, from, password string) *http.Response {
	r, err := http.NewRequest("POST", s.URL+"/api/session", strings.NewReader(fmt.Sprintf(`{"login":"ana","password":%q}`, password)))
	require.NoError(t, err)
	r.Header.Set("Content-Type", "application/json")
	if from != "" {
		r.Header.Set("X-Forwarded-For", "203.0.113.99, "+from)
	}
	answer, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	require.NoError(t, answer.Body.Close())
	return answer
}

// After three wrong passwords an address waits, right passwords or not; others do not, and a class that signs in from one address at once is no guesser.
func TestGuessingIsStopped(t *testing.T) {
	loopback := func(c *service.Config) {
		c.SignIns = 3
		c.Proxies = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}
	}
	s := servicetest.Start(t, true, loopback)
	const school, guesser = "198.51.100.7", "198.51.100.8"
	var class errgroup.Group
	for range 30 {
		class.Go(func() error {
			if status := attempt(t, s, school, servicetest.Password).StatusCode; status != 200 {
				return fmt.Errorf("a right password got %d", status)
			}
			return nil
		})
	}
	require.NoError(t, class.Wait())
	for range 3 {
		assert.Equal(t, 401, attempt(t, s, guesser, "wrong").StatusCode)
	}
	for _, password := range []string{"wrong", servicetest.Password} {
		answer := attempt(t, s, guesser, password)
		assert.Equal(t, 429, answer.StatusCode)
		assert.Equal(t, "60", answer.Header.Get("Retry-After"))
	}
	assert.Equal(t, 200, attempt(t, s, school, servicetest.Password).StatusCode)
}

// Without a proxy nobody can say that they come from elsewhere.
func TestForwardingIsNotBelievedOfAnybody(t *testing.T) {
	s := servicetest.Start(t, true, func(c *service.Config) { c.SignIns = 3 })
	for n := range 3 {
		assert.Equal(t, 401, attempt(t, s, fmt.Sprintf("198.51.100.%d", n), "wrong").StatusCode)
	}
	assert.Equal(t, 429, attempt(t, s, "198.51.100.9", "wrong").StatusCode)
}

func TestHTTPS(t *testing.T) {
	for _, https := range []bool{false, true} {
		s := servicetest.Start(t, true, func(c *service.Config) { c.HTTPS = https })
		answer := attempt(t, s, "", servicetest.Password)
		require.Len(t, answer.Cookies(), 1)
		assert.Equal(t, https, answer.Cookies()[0].Secure)
		assert.True(t, answer.Cookies()[0].HttpOnly)
		assert.Equal(t, https, answer.Header.Get("Strict-Transport-Security") != "")
		assert.Contains(t, answer.Header.Get("Content-Security-Policy"), "script-src 'self'")
	}
}
