package service

import (
	"errors"
	"fmt"
	"net/url"
	"os"
	"slices"
	"strings"
)

// A setting is one of a database address.
type setting struct{ key, value string }

// ours are settings of the service's own connections, which PostgreSQL's programs do not know.
func ours(key string) bool {
	return strings.HasPrefix(key, "pool_") || slices.Contains([]string{"default_query_exec_mode", "statement_cache_capacity",
		"description_cache_capacity"}, key)
}

// theirs are the settings that PostgreSQL's programs know; any other is one of the server's, such as search_path.
var theirs = strings.Fields(`host hostaddr port dbname user password passfile require_auth channel_binding connect_timeout client_encoding options
	application_name fallback_application_name keepalives keepalives_idle keepalives_interval keepalives_count
	tcp_user_timeout replication gssencmode sslmode requiressl sslnegotiation sslcompression sslcert sslkey sslpassword
	sslcertmode sslrootcert sslcrl sslcrldir sslsni requirepeer ssl_min_protocol_version ssl_max_protocol_version
	min_protocol_version max_protocol_version krbsrvname gsslib gssdelegation service target_session_attrs
	load_balance_hosts`)

// settings reads a database address, a URL or key=value pairs, for PostgreSQL's programs.
func settings(database string) ([]setting, error) {
	read := pairs
	if strings.HasPrefix(database, "postgres://") || strings.HasPrefix(database, "postgresql://") {
		read = fromURL
	}
	all, err := read(database)
	if err != nil {
		return nil, fmt.Errorf("reading the database address: %w", err)
	}
	var kept []setting
	var options []string
	for _, s := range all {
		switch {
		case ours(s.key):
		case s.key == "options":
			options = append(options, s.value)
		case slices.Contains(theirs, s.key):
			kept = append(kept, s)
		default:
			options = append(options, "-c "+s.key+"="+strings.NewReplacer(`\`, `\\`, " ", `\ `).Replace(s.value))
		}
	}
	if len(options) > 0 {
		kept = append(kept, setting{"options", strings.Join(options, " ")})
	}
	return kept, nil
}

func fromURL(database string) (list []setting, err error) {
	// Several hosts, each with its port, are no URL for Go: they are taken out first.
	_, rest, _ := strings.Cut(database, "://")
	authority, tail := rest, ""
	if i := strings.IndexAny(rest, "/?"); i >= 0 {
		authority, tail = rest[:i], rest[i:]
	}
	user, at := "", strings.LastIndex(authority, "@")
	if at >= 0 {
		user = authority[:at+1]
	}
	u, err := url.Parse("postgres://" + user + "x" + tail)
	if err != nil {
		return nil, errors.New("it is no URL") // the error would repeat it, with the password
	}
	var hosts, ports []string
	for one := range strings.SplitSeq(authority[at+1:], ",") {
		host, port := one, ""
		if i := strings.LastIndex(one, ":"); i > strings.LastIndex(one, "]") {
			host, port = one[:i], one[i+1:]
		}
		hosts, ports = append(hosts, strings.Trim(host, "[]")), append(ports, port)
	}
	add := func(key, value string) {
		if strings.Trim(value, ",") != "" {
			list = append(list, setting{key, value})
		}
	}
	add("host", strings.Join(hosts, ","))
	add("port", strings.Join(ports, ","))
	add("dbname", strings.TrimPrefix(u.Path, "/"))
	if u.User != nil {
		password, _ := u.User.Password()
		add("user", u.User.Username())
		add("password", password)
	}
	for key, values := range u.Query() {
		add(key, values[0])
	}
	return list, nil
}

// pairs reads key=value pairs; a value may stand in quotes, in which a backslash spares the next letter.
func pairs(text string) (list []setting, err error) {
	for text = strings.TrimSpace(text); text != ""; text = strings.TrimSpace(text) {
		key, rest, found := strings.Cut(text, "=")
		if !found {
			return nil, errors.New("a key has no value")
		}
		rest = strings.TrimLeft(rest, " ")
		quoted := strings.HasPrefix(rest, "'")
		if quoted {
			rest = rest[1:]
		}
		var value strings.Builder
		i := 0
		for ; i < len(rest) && !(quoted && rest[i] == '\'') && (quoted || rest[i] != ' '); i++ {
			if rest[i] == '\\' && i+1 < len(rest) {
				i++
			}
			value.WriteByte(rest[i])
		}
		if quoted {
			if i == len(rest) {
				return nil, errors.New("a quote is not closed")
			}
			i++
		}
		list, text = append(list, setting{strings.TrimSpace(key), value.String()}), rest[i:]
	}
	return list, nil
}

// serviceFile writes a database address where PostgreSQL's programs read it: not on a command line, which everybody on the
// machine sees. It returns what to set in their environment.
func serviceFile(database string) (env []string, remove func(), err error) {
	all, err := settings(database)
	if err != nil {
		return nil, nil, err
	}
	f, err := os.CreateTemp("", "celandine-*.conf") // for its owner alone
	if err != nil {
		return nil, nil, fmt.Errorf("writing the connection's settings: %w", err)
	}
	remove = func() { _ = os.Remove(f.Name()) } // it may be gone
	text := "[celandine]\n"
	for _, s := range all {
		if strings.ContainsAny(s.value, "\r\n") {
			err = fmt.Errorf("reading the database address: %s holds a line's end", s.key)
		}
		text += s.key + "=" + s.value + "\n"
	}
	if err == nil {
		_, err = f.WriteString(text)
	}
	if err := errors.Join(err, f.Close()); err != nil {
		remove()
		return nil, nil, err
	}
	return []string{"PGSERVICEFILE=" + f.Name(), "PGSERVICE=celandine"}, remove, nil
}
