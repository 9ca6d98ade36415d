-- +goose Up
-- One row for each sign-in, a browser's session or a token: whatever acts for a person is listed, and ends, by its row.
ALTER TABLE tokens
    ADD id      bigserial UNIQUE,
    ADD kind    text NOT NULL DEFAULT 'token' CHECK (kind IN ('session', 'token')),
    ADD name    text NOT NULL DEFAULT '',
    ADD scope   text NOT NULL DEFAULT 'all' CHECK (scope IN ('read', 'hand-in', 'all')),
    ADD used_at timestamptz;
CREATE INDEX tokens_person ON tokens (person_id);
CREATE INDEX tokens_expiry ON tokens (expires_at);
-- Sessions from before are not listed: they end.
DELETE FROM sessions;

-- +goose Down
DELETE FROM tokens WHERE kind = 'session';
DROP INDEX tokens_person, tokens_expiry;
ALTER TABLE tokens DROP id, DROP kind, DROP name, DROP scope, DROP used_at;
