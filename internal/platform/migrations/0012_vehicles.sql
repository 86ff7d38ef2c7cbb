-- +goose Up
-- A vehicle that was opened by mistake is cancelled before anything is on it.
ALTER TABLE loads
    DROP CONSTRAINT loads_state_check,
    ADD CHECK (state IN ('loading', 'left', 'cancelled'));
DROP TRIGGER state_step ON loads;
CREATE TRIGGER state_step BEFORE UPDATE OF state ON loads FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('loading>left', 'loading>cancelled');

-- +goose Down
DELETE FROM loads WHERE state = 'cancelled';
ALTER TABLE loads
    DROP CONSTRAINT loads_state_check,
    ADD CHECK (state IN ('loading', 'left'));
DROP TRIGGER state_step ON loads;
CREATE TRIGGER state_step BEFORE UPDATE OF state ON loads FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('loading>left');
