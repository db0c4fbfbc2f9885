-- What arrives somewhere says that its address works, which is one look at an index
-- and one row. Only an address that was dead changes plans; there are few of those.

-- +goose Up
DROP INDEX addresses_value;
CREATE INDEX addresses_value ON addresses (channel, value);
CREATE INDEX addresses_dead ON addresses (channel, value) WHERE health = 'dead';

-- +goose Down
DROP INDEX addresses_dead;
DROP INDEX addresses_value;
CREATE INDEX addresses_value ON addresses (channel, value, health);
