-- +goose Up
-- Processes that grade say here that they live; the jobs of one that has been silent are given to others.
CREATE UNLOGGED TABLE workers (
    id      text PRIMARY KEY,
    seen_at timestamptz NOT NULL DEFAULT now()
);

-- +goose Down
DROP TABLE workers;
