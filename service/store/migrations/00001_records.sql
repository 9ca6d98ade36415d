-- +goose Up
CREATE TABLE people (
    id            bigserial PRIMARY KEY,
    login         text NOT NULL,
    name          text NOT NULL,
    role          text NOT NULL CHECK (role IN ('instructor', 'learner')),
    password_hash text NOT NULL,
    created_at    timestamptz NOT NULL DEFAULT now()
);
CREATE UNIQUE INDEX people_login ON people (lower(login));

CREATE TABLE classes (
    id         bigserial PRIMARY KEY,
    name       text NOT NULL UNIQUE,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE enrolments (
    class_id  bigint NOT NULL REFERENCES classes (id),
    person_id bigint NOT NULL REFERENCES people (id),
    PRIMARY KEY (class_id, person_id)
);
CREATE INDEX enrolments_person ON enrolments (person_id);

-- A revision is never changed: a mark names the revision it was given by.
CREATE TABLE revisions (
    id         bigserial PRIMARY KEY,
    name       text NOT NULL,
    number     integer NOT NULL,
    title      text NOT NULL,
    topic      text NOT NULL,
    points     bigint NOT NULL, -- hundredths
    hash       text NOT NULL,
    files      jsonb NOT NULL,
    created_by bigint NOT NULL REFERENCES people (id),
    created_at timestamptz NOT NULL DEFAULT now(),
    UNIQUE (name, number)
);

-- Which revision of an exercise a class works on.
CREATE TABLE assignments (
    id          bigserial PRIMARY KEY,
    class_id    bigint NOT NULL REFERENCES classes (id),
    exercise    text NOT NULL,
    revision_id bigint NOT NULL REFERENCES revisions (id),
    position    integer NOT NULL,
    published   boolean NOT NULL DEFAULT true,
    created_at  timestamptz NOT NULL DEFAULT now(),
    UNIQUE (class_id, exercise)
);

CREATE TABLE handins (
    id            bigserial PRIMARY KEY,
    assignment_id bigint NOT NULL REFERENCES assignments (id),
    revision_id   bigint NOT NULL REFERENCES revisions (id),
    person_id     bigint NOT NULL REFERENCES people (id),
    number        integer NOT NULL, -- of this person for this assignment, from 1
    file          text NOT NULL,
    text          text NOT NULL,
    key           text, -- Idempotency-Key
    created_at    timestamptz NOT NULL DEFAULT now(),
    UNIQUE (assignment_id, person_id, number),
    UNIQUE (person_id, key)
);

CREATE TABLE results (
    handin_id bigint PRIMARY KEY REFERENCES handins (id),
    earned    bigint NOT NULL, -- hundredths
    points    bigint NOT NULL,
    result    json NOT NULL,
    evidence  json NOT NULL,  -- json, not jsonb: kept to the byte
    graded_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE tokens (
    hash       bytea PRIMARY KEY,
    person_id  bigint NOT NULL REFERENCES people (id),
    created_at timestamptz NOT NULL DEFAULT now(),
    expires_at timestamptz NOT NULL
);

-- The shape that the session library needs.
CREATE TABLE sessions (
    token  text PRIMARY KEY,
    data   bytea NOT NULL,
    expiry timestamptz NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expiry);

-- +goose Down
DROP TABLE sessions, tokens, results, handins, assignments, revisions, enrolments, classes, people;
