package wirekettle.server.ledger;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/** Runs with their counts, which move with each batch of their ledgers. */
@Mapper
public interface RunMapper {
    /** The columns of {@link Row}. */
    String COLUMNS =
            """
            r.id, r.flow_id, f.name flow_name, r.flow_revision, r.environment, r.state, r.started_by, r.started_at,
            r.ended_at, r.total, r.limit_records, r.pilot, r.read, r.done, r.rejected, r.left_out, r.in_doubt, r.held_back,
            r.done + r.rejected + r.left_out + r.in_doubt + r.held_back ended, r.saved, r.rows, r.calls,
            r.stages::text stages, r.sums::text sums, r.output_file, r.message, r.origin_run, r.resent,
            r.begun_by, r.trigger_id, r.file, r.discarded, r.doubt_settled, r.done_before
            from run r join flow f on f.id = r.flow_id
            """;

    /**
     * A run with its counts.
     *
     * @param state running, paused, done, cancelled, stopped, failed or interrupted
     * @param total how many records there are to read
     * @param limitRecords how many are read at most, 0 for all
     * @param pilot whether it pauses there, to go on with the rest
     * @param read records read; the same as those that ended and those on their way
     * @param ended records that have an end
     * @param saved how many of those done a failure lane saved
     * @param stages counts by stage, as JSON
     * @param originRun the run whose records it sends again, or null
     * @param resent how many of its own records were sent again
     * @param begunBy hand, or the kind of the trigger that began it
     * @param triggerId that trigger, or null
     * @param file the file that began it, or null
     * @param discarded how many of its records somebody discarded
     * @param doubtSettled how many of its records in doubt somebody settled
     * @param doneBefore what a run that sends again does with what was done before: kept, anew or taken-back; null
     *     for others
     */
    @Schema(
            name = "Run",
            requiredProperties = {
                "id",
                "flowId",
                "flowName",
                "flowRevision",
                "environment",
                "state",
                "startedBy",
                "startedAt",
                "total",
                "limitRecords",
                "pilot",
                "read",
                "done",
                "rejected",
                "leftOut",
                "inDoubt",
                "heldBack",
                "ended",
                "saved",
                "rows",
                "calls",
                "stages",
                "resent",
                "begunBy",
                "discarded",
                "doubtSettled"
            })
    record Row(
            Long id,
            Long flowId,
            String flowName,
            Integer flowRevision,
            String environment,
            String state,
            String startedBy,
            Instant startedAt,
            Instant endedAt,
            Long total,
            Long limitRecords,
            Boolean pilot,
            Long read,
            Long done,
            Long rejected,
            Long leftOut,
            Long inDoubt,
            Long heldBack,
            Long ended,
            Long saved,
            Long rows,
            Long calls,
            String stages,
            String sums,
            String outputFile,
            String message,
            Long originRun,
            Long resent,
            String begunBy,
            Long triggerId,
            String file,
            Long discarded,
            Long doubtSettled,
            String doneBefore) {
        /** Returns how many records that were rejected or held back nobody has sent again or discarded yet. */
        public long open() {
            return rejected + heldBack - resent - discarded;
        }

        /** Returns how many records are in doubt and nobody has said what became of them. */
        public long doubtful() {
            return inDoubt - doubtSettled;
        }
    }

    /** Returns runs, the newest first; flow 0 means all, state % means any. */
    @Select(
            "select " + COLUMNS
                    + """
            where (#{flow} = 0 or r.flow_id = #{flow}) and f.name ilike #{like} and r.state like #{state}
            order by r.id desc limit #{size} offset #{offset}
            """)
    List<Row> page(
            @Param("flow") long flow,
            @Param("like") String like,
            @Param("state") String state,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from run r join flow f on f.id = r.flow_id"
            + " where (#{flow} = 0 or r.flow_id = #{flow}) and f.name ilike #{like} and r.state like #{state}")
    long count(@Param("flow") long flow, @Param("like") String like, @Param("state") String state);

    /** Returns one run, or null. */
    @Select("select " + COLUMNS + " where r.id = #{id}")
    Row byId(@Param("id") long id);

    /** Returns runs that wait for somebody, the newest first: records that are open, a rest, an endpoint that is away. */
    @Select("select " + COLUMNS
            + " where r.state in ('paused', 'interrupted') or r.state = 'running' and r.on_hold is not"
            + " null or r.state <> 'running' and (r.rejected + r.held_back > r.resent + r.discarded or r.in_doubt >"
            + " r.doubt_settled) order by r.id desc limit #{most}")
    List<Row> waiting(@Param("most") int most);

    /** Returns a flow's last run, or null. */
    @Select("select " + COLUMNS + " where r.flow_id = #{flow} order by r.id desc limit 1")
    Row last(@Param("flow") long flow);

    /** Adds a running run and returns its id. */
    @Select(
            value =
                    """
            insert into run (flow_id, flow_revision, contract_hashes, environment, state, started_by, started_at, total,
                limit_records, pilot)
            values (#{flow}, #{revision}, #{hashes}, #{environment}, 'running', #{by}, #{at}, #{total}, #{limit}, #{pilot})
            returning id
            """,
            affectData = true)
    long add(
            @Param("flow") long flow,
            @Param("revision") int revision,
            @Param("hashes") String contractHashes,
            @Param("environment") String environment,
            @Param("by") String by,
            @Param("at") Instant at,
            @Param("total") long total,
            @Param("limit") long limit,
            @Param("pilot") boolean pilot);

    /** Notes what began a run, and the revisions of the contracts it calls, as JSON. */
    @Update(
            "update run set begun_by = #{begunBy}, trigger_id = #{trigger}, file = #{file}, contracts = #{contracts}::jsonb"
                    + " where id = #{id}")
    void begun(
            @Param("id") long id,
            @Param("begunBy") String begunBy,
            @Param("trigger") Long trigger,
            @Param("file") String file,
            @Param("contracts") String contracts);

    /** Returns the revisions of the contracts a run calls, as JSON; null where that was not kept. */
    @Select("select contracts::text from run where id = #{id}")
    String contracts(@Param("id") long id);

    /** Renews the leases a server holds. */
    @Update("update run_part p set lease_until = now() + interval '60 seconds' from run r where p.holder = #{holder}"
            + " and r.id = p.run_id and r.state = 'running'")
    void renew(@Param("holder") String holder);

    /** Asks whoever holds a run to pause or cancel it. */
    @Update("update run set wanted = #{wanted} where id = #{id} and state = 'running'")
    int want(@Param("id") long id, @Param("wanted") String wanted);

    /** Says why a run does nothing at the moment, null where it does; since when is kept as long as it is on hold. */
    @Update("update run set on_hold = #{why}, on_hold_since = case when #{why}::text is null then null"
            + " else coalesce(on_hold_since, now()) end where id = #{id}"
            + " and (on_hold is distinct from #{why}::text)")
    void onHold(@Param("id") long id, @Param("why") String why);

    /** Returns why a run does nothing at the moment, null where it does. */
    @Select("select on_hold from run where id = #{id}")
    String heldFor(@Param("id") long id);

    /** Returns the name of a flow. */
    @Select("select name from flow where id = #{flow}")
    String flowName(@Param("flow") long flow);

    /** What is asked of a run. */
    record Wanted(Long id, String wanted) {}

    /** Returns what is asked of the runs a server holds. */
    @Select("select r.id, r.wanted from run r join run_part p on p.run_id = r.id and p.part = 0"
            + " where p.holder = #{holder} and r.state = 'running' and r.wanted is not null")
    List<Wanted> wanted(@Param("holder") String holder);

    /** Keeps the named values a run begins with and what stands for its datasets, as JSON. */
    @Update("update run set named_values = #{values}::jsonb, datasets = #{datasets}::jsonb where id = #{id}")
    void keepValues(@Param("id") long id, @Param("values") String values, @Param("datasets") String datasets);

    /** Returns what stands for the datasets of a run, as JSON. */
    @Select("select datasets::text from run where id = #{id}")
    String datasets(@Param("id") long id);

    /** Returns the named values a run began with, as JSON. */
    @Select("select named_values::text from run where id = #{id}")
    String values(@Param("id") long id);

    /** Makes the tables of a run's month. */
    @Select(value = "select keep_month(month_of(started_at))::text from run where id = #{id}", affectData = true)
    String keepMonth(@Param("id") long id);

    /** Takes the part of a run and returns its fencing number: an earlier holder can write no more. */
    @Select(
            value =
                    """
            insert into run_part (run_id, part, holder, fence, lease_until)
            values (#{id}, 0, #{holder}, 1, now() + interval '60 seconds')
            on conflict (run_id, part) do update set holder = excluded.holder, fence = run_part.fence + 1,
                lease_until = excluded.lease_until
            returning fence
            """,
            affectData = true)
    long take(@Param("id") long id, @Param("holder") String holder);

    /** Returns how far the outputs of a run are durable, as JSON. */
    @Select("select positions::text from run_part where run_id = #{id} and part = 0")
    String positions(@Param("id") long id);

    /** Notes whose records a run sends again, and how many these are. */
    @Update("update run set origin_run = #{origin}, total = #{total}, done_before = #{doneBefore} where id = #{id}")
    void origin(
            @Param("id") long id,
            @Param("origin") long origin,
            @Param("total") long total,
            @Param("doneBefore") String doneBefore);

    /** Notes that some of a run's records were sent again. */
    @Update("update run set resent = resent + #{records} where id = #{id}")
    void resent(@Param("id") long id, @Param("records") int records);

    /** Keeps others from a run until the transaction ends. */
    @Select("select id from run where id = #{id} for update")
    long lock(@Param("id") long id);

    /** Returns the hashes of the contracts a run began with. */
    @Select("select contract_hashes from run where id = #{id}")
    String contractHashes(@Param("id") long id);

    /** Notes the file with the results. */
    @Update("update run set output_file = #{file} where id = #{id}")
    void output(@Param("id") long id, @Param("file") String file);

    /** Lets a run go on that was paused, interrupted or failed as a whole; returns 0 for any other. */
    @Update(
            "update run set state = 'running', wanted = null, ended_at = null, message = null, limit_records = 0, pilot = false"
                    + " where id = #{id} and state in ('interrupted', 'paused', 'failed')")
    int goOn(@Param("id") long id);

    /** Ends a run. */
    @Update("update run set state = #{state}, message = #{message}, ended_at = now() where id = #{id}")
    void end(@Param("id") long id, @Param("state") String state, @Param("message") String message);

    /** Ends a run for the server that holds it; returns 0 where another has taken it over. */
    @Update(
            "update run set state = #{state}, message = #{message}, ended_at = now(), on_hold = null, on_hold_since = null"
                    + " where id = #{id} and exists"
                    + " (select 1 from run_part p where p.run_id = run.id and p.part = 0 and p.holder = #{holder})")
    int endHeld(
            @Param("id") long id,
            @Param("holder") String holder,
            @Param("state") String state,
            @Param("message") String message);

    /**
     * Marks runs that were going on at servers that ended, or whose leases are over, and returns them.
     *
     * @param gone the names of servers that ended, separated by commas
     */
    @Select(
            value = "update run r set state = 'interrupted', ended_at = now(),"
                    + " message = 'The server stopped in the middle of this run.' where r.state = 'running' and case when"
                    + " exists (select 1 from run_part p where p.run_id = r.id) then exists (select 1 from run_part p"
                    + " where p.run_id = r.id and (p.lease_until < now() or p.holder = any (string_to_array(#{gone}, ','))))"
                    + " else r.started_at < now() - interval '60 seconds' end returning id",
            affectData = true)
    List<Long> interrupt(@Param("gone") String gone);

    /** Returns how far the flow of a run has read its operation in the run's environment, null when it never did. */
    @Select("select w.value from watermark w join run r on r.flow_id = w.flow_id and r.environment = w.environment"
            + " where r.id = #{id}")
    String watermark(@Param("id") long id);

    /** How far a flow has read its operation in an environment. */
    @Schema(
            name = "Watermark",
            requiredProperties = {"environment", "value", "movedAt"})
    record Watermark(String environment, String value, Long run, Instant movedAt) {}

    /** Returns how far a flow has read its operation, by environment. */
    @Select("select environment, value, run_id, moved_at from watermark where flow_id = #{flow} order by environment")
    List<Watermark> watermarks(@Param("flow") long flow);

    /** Says how far a flow has read its operation in an environment. */
    @Insert("insert into watermark (flow_id, environment, value) values (#{flow}, #{environment}, #{value})"
            + " on conflict (flow_id, environment) do update set value = excluded.value, run_id = null,"
            + " moved_at = now()")
    void moveWatermark(
            @Param("flow") long flow, @Param("environment") String environment, @Param("value") String value);

    /** Lets a flow read its operation from the beginning. */
    @Delete("delete from watermark where flow_id = #{flow} and environment = #{environment}")
    void forgetWatermark(@Param("flow") long flow, @Param("environment") String environment);
}
