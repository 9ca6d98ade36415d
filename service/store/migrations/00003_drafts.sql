-- +goose Up
-- What a person is writing. The version tells a browser that another one has written meanwhile.
CREATE TABLE drafts (
    assignment_id bigint NOT NULL REFERENCES assignments (id),
    person_id     bigint NOT NULL REFERENCES people (id),
    language      text NOT NULL,
    text          text NOT NULL,
    version       integer NOT NULL,
    saved_at      timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (assignment_id, person_id, language)
);
CREATE INDEX drafts_saved ON drafts (saved_at);

-- +goose Down
DROP TABLE drafts;
