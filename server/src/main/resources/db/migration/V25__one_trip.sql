-- What is written of a run travels to the database together: who does not hold its part any more is refused by the
-- database itself, and nothing of it is written.
create function hold_part(run bigint, its_fence bigint, moved jsonb) returns void language plpgsql as
$$
begin
    update run_part set positions = positions || moved, lease_until = now() + interval '60 seconds'
    where run_id = run and part = 0 and fence = its_fence;
    if not found then
        raise exception 'another server goes on with run %', run using errcode = 'WK001';
    end if;
end
$$;
