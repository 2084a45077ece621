package wirekettle.server.triggers;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/** Triggers, and what they did. */
@Mapper
public interface TriggerMapper {
    /** A trigger as it is stored; the spec is JSON. */
    record Row(
            Long id,
            Long flowId,
            String flowName,
            String environment,
            String kind,
            String spec,
            Boolean active,
            Integer version,
            Instant dueAt,
            Boolean waiting,
            Instant changedAt,
            String changedBy,
            String madeBy) {}

    /**
     * What a trigger did.
     *
     * @param what started, waits, left-out, missed, same-content, refused, or reading a queue
     * @param message why
     */
    @Schema(
            name = "TriggerEvent",
            requiredProperties = {"id", "at", "what", "message"})
    record Event(Long id, Instant at, String what, String message, Long runId) {}

    /** The columns of {@link Row}. */
    String COLUMNS =
            "select t.id, t.flow_id, f.name, t.environment, t.kind, t.spec::text, t.active, t.version, t.due_at,"
                    + " t.waiting, t.changed_at, t.changed_by, t.made_by from flow_trigger t join flow f on f.id = t.flow_id"
                    + " and f.archived_at is null ";

    /** What lists can be narrowed to; flow 0 means all. */
    String NARROWED =
            "where (#{flow} = 0 or t.flow_id = #{flow}) and (f.name ilike #{like} or t.environment ilike #{like})";

    /** Returns triggers. */
    @Select(COLUMNS + NARROWED + " order by ${order} limit #{size} offset #{offset}")
    List<Row> page(
            @Param("flow") long flow,
            @Param("like") String like,
            @Param("order") String order,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from flow_trigger t join flow f on f.id = t.flow_id and f.archived_at is null " + NARROWED)
    long count(@Param("flow") long flow, @Param("like") String like);

    /** Returns one, or null. */
    @Select(COLUMNS + "where t.id = #{id}")
    Row byId(@Param("id") long id);

    /** Returns those of a kind, active or not. */
    @Select(COLUMNS + "where t.kind = #{kind} order by t.id")
    List<Row> ofKind(@Param("kind") String kind);

    /** Returns those of a kind that are active. */
    @Select(COLUMNS + "where t.kind = #{kind} and t.active order by t.id")
    List<Row> active(@Param("kind") String kind);

    /** Returns those that wait for a run of a flow to end. */
    @Select(COLUMNS
            + "where t.flow_id = #{flow} and t.environment = #{environment} and t.waiting and t.active order by t.id")
    List<Row> waiting(@Param("flow") long flow, @Param("environment") String environment);

    /** Returns all that follow another flow's end. */
    @Select(COLUMNS + "where t.kind = 'flow' order by t.id")
    List<Row> following();

    /** Returns how many triggers there are in an environment. */
    @Select("select count(*) from flow_trigger where environment = #{environment}")
    long in(@Param("environment") String environment);

    /** Adds a trigger and returns its id. */
    @Select(
            value =
                    "insert into flow_trigger (flow_id, environment, kind, spec, active, changed_by, made_by)"
                            + " values (#{flow}, #{environment}, #{kind}, #{spec}::jsonb, #{active}, #{by}, #{by}) returning id",
            affectData = true)
    long add(
            @Param("flow") long flow,
            @Param("environment") String environment,
            @Param("kind") String kind,
            @Param("spec") String spec,
            @Param("active") boolean active,
            @Param("by") String by);

    /** Changes a trigger, only when nobody did so before; returns how many rows changed. */
    @Update("update flow_trigger set spec = #{spec}::jsonb, active = #{active}, waiting = false, version = version + 1,"
            + " changed_at = now(), changed_by = #{by} where id = #{id} and version = #{version}")
    int change(
            @Param("id") long id,
            @Param("version") int version,
            @Param("spec") String spec,
            @Param("active") boolean active,
            @Param("by") String by);

    /** Says when a trigger is due next, null for never. */
    @Update("update flow_trigger set due_at = #{at} where id = #{id}")
    void due(@Param("id") long id, @Param("at") Instant at);

    /** Says whether a trigger waits for a run to end; returns 0 where that was so already. */
    @Update("update flow_trigger set waiting = #{waiting} where id = #{id} and waiting <> #{waiting}")
    int waits(@Param("id") long id, @Param("waiting") boolean waiting);

    /** Removes a trigger. */
    @Delete("delete from flow_trigger where id = #{id}")
    void remove(@Param("id") long id);

    /** Takes care of a time of a clock; returns 0 where another server did. */
    @Insert("insert into trigger_time (trigger_id, due_at) values (#{id}, #{due}) on conflict do nothing")
    int takeTime(@Param("id") long id, @Param("due") Instant due);

    /** Notes what a trigger did. */
    @Insert("insert into trigger_event (trigger_id, what, message, run_id) values (#{id}, #{what}, #{message}, #{run})")
    void event(
            @Param("id") long id, @Param("what") String what, @Param("message") String message, @Param("run") Long run);

    /** Returns what a trigger did, the newest first. */
    @Select("select id, at, what, message, run_id from trigger_event where trigger_id = #{id} order by id desc"
            + " limit #{size} offset #{offset}")
    List<Event> events(@Param("id") long id, @Param("size") int size, @Param("offset") long offset);

    /** Returns how much a trigger did. */
    @Select("select count(*) from trigger_event where trigger_id = #{id}")
    long eventCount(@Param("id") long id);

    /** Returns whether a run of a flow goes on in an environment. */
    @Select("select exists (select 1 from run where flow_id = #{flow} and environment = #{environment}"
            + " and state in ('running', 'paused', 'interrupted'))")
    boolean going(@Param("flow") long flow, @Param("environment") String environment);

    /** Takes a file by its content; returns 0 where the same content was taken before. */
    @Insert(
            "insert into taken_file (trigger_id, sha256, name) values (#{id}, #{sha256}, #{name}) on conflict do nothing")
    int take(@Param("id") long id, @Param("sha256") String sha256, @Param("name") String name);

    /** Takes a file whose content was taken before once more. */
    @Update("update taken_file set name = #{name}, run_id = null, taken_at = now()"
            + " where trigger_id = #{id} and sha256 = #{sha256}")
    void takeAgain(@Param("id") long id, @Param("sha256") String sha256, @Param("name") String name);

    /** Notes the run that a file began. */
    @Update("update taken_file set run_id = #{run} where trigger_id = #{id} and sha256 = #{sha256}")
    void began(@Param("id") long id, @Param("sha256") String sha256, @Param("run") long run);

    /** Forgets a file that began nothing. */
    @Delete("delete from taken_file where trigger_id = #{id} and sha256 = #{sha256} and run_id is null")
    void forget(@Param("id") long id, @Param("sha256") String sha256);

    /** A file that was taken. */
    record Taken(Long trigger, String sha256, String name, Long run, Instant at) {}

    /** Returns the file of some content that a trigger took, or null. */
    @Select(
            "select trigger_id, sha256, name, run_id, taken_at from taken_file where trigger_id = #{id} and sha256 = #{sha256}")
    Taken taken(@Param("id") long id, @Param("sha256") String sha256);

    /** Returns the file that began a run, or null. */
    @Select("select trigger_id, sha256, name, run_id, taken_at from taken_file where run_id = #{run}")
    Taken ofRun(@Param("run") long run);
}
