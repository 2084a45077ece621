package wirekettle.server.alerts;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/** Alert rules, what they raised, and the messages about it. */
@Mapper
public interface AlertMapper {
    /** A rule as it is stored; flow and environment are null for every one, the spec is JSON. */
    record Rule(
            Long id,
            Long flowId,
            String flowName,
            String environment,
            String kind,
            String spec,
            Boolean active,
            Integer version,
            Instant changedAt,
            String changedBy) {}

    /** Something that was told. */
    @Schema(
            name = "Alert",
            requiredProperties = {"id", "kind", "subject", "body", "raisedAt", "note"})
    record Alert(
            Long id,
            Long ruleId,
            String kind,
            Long flowId,
            String flowName,
            String environment,
            Long runId,
            String subject,
            String body,
            Instant raisedAt,
            Instant acknowledgedAt,
            String acknowledgedBy,
            String note) {}

    /** A message on its way, or sent. */
    @Schema(
            name = "AlertMessage",
            requiredProperties = {"id", "channel", "target", "subject", "dueAt", "attempts"})
    record Message(
            Long id,
            String channel,
            String target,
            String subject,
            String body,
            Instant dueAt,
            Integer attempts,
            Instant sentAt,
            String failure) {}

    /** The columns of {@link Rule}. */
    String RULES = "select r.id, r.flow_id, f.name, r.environment, r.kind, r.spec::text, r.active, r.version,"
            + " r.changed_at, r.changed_by from alert_rule r left join flow f on f.id = r.flow_id ";

    /** The columns of {@link Alert}. */
    String ALERTS = "select a.id, a.rule_id, a.kind, a.flow_id, f.name, a.environment, a.run_id, a.subject, a.body,"
            + " a.raised_at, a.acknowledged_at, a.acknowledged_by, a.note from alert a left join flow f on f.id = a.flow_id ";

    /** What rules can be narrowed to: a flow with the rules of all flows, 0 for those of no flow too. */
    String OF_FLOW = "where (#{flow} = 0 or r.flow_id = #{flow} or r.flow_id is null) and (r.kind ilike #{like}"
            + " or coalesce(f.name, '') ilike #{like} or r.spec::text ilike #{like})";

    /** Returns rules. */
    @Select(RULES + OF_FLOW + " order by f.name nulls first, r.kind, r.id limit #{size} offset #{offset}")
    List<Rule> rules(
            @Param("flow") long flow,
            @Param("like") String like,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from alert_rule r left join flow f on f.id = r.flow_id " + OF_FLOW)
    long ruleCount(@Param("flow") long flow, @Param("like") String like);

    /** Returns the active rules of some kinds, separated by commas. */
    @Select(RULES
            + "where r.active and r.kind = any (string_to_array(#{kinds}, ',')) and (f.id is null or f.archived_at is"
            + " null) order by r.id")
    List<Rule> active(@Param("kinds") String kinds);

    /** Returns one rule, or null. */
    @Select(RULES + "where r.id = #{id}")
    Rule rule(@Param("id") long id);

    /** Adds a rule and returns its id. */
    @Select(
            value = "insert into alert_rule (flow_id, environment, kind, spec, active, changed_by) values (#{flow},"
                    + " #{environment}, #{kind}, #{spec}::jsonb, #{active}, #{by}) returning id",
            affectData = true)
    long add(
            @Param("flow") Long flow,
            @Param("environment") String environment,
            @Param("kind") String kind,
            @Param("spec") String spec,
            @Param("active") boolean active,
            @Param("by") String by);

    /** Changes a rule, only when nobody did so before; returns how many rows changed. */
    @Update(
            "update alert_rule set environment = #{environment}, spec = #{spec}::jsonb, active = #{active},"
                    + " version = version + 1, changed_at = now(), changed_by = #{by} where id = #{id} and version = #{version}")
    int change(
            @Param("id") long id,
            @Param("version") int version,
            @Param("environment") String environment,
            @Param("spec") String spec,
            @Param("active") boolean active,
            @Param("by") String by);

    /** Removes a rule; what it raised stays. */
    @Delete("delete from alert_rule where id = #{id}")
    void remove(@Param("id") long id);

    /** Raises an alert, unless the same was told before; returns how many were raised. */
    @Insert(
            "insert into alert (rule_id, kind, flow_id, environment, run_id, told_key, subject, body) values (#{rule},"
                    + " #{kind}, #{flow}, #{environment}, #{run}, #{key}, #{subject}, #{body}) on conflict (told_key) do nothing")
    int raise(
            @Param("rule") long rule,
            @Param("kind") String kind,
            @Param("flow") Long flow,
            @Param("environment") String environment,
            @Param("run") Long run,
            @Param("key") String key,
            @Param("subject") String subject,
            @Param("body") String body);

    /** What alerts can be narrowed to. */
    String NARROWED = "where (#{flow} = 0 or a.flow_id = #{flow}) and (not #{open} or a.acknowledged_at is null)"
            + " and (a.subject ilike #{like} or a.kind ilike #{like})";

    /** Returns alerts, the newest first. */
    @Select(ALERTS + NARROWED + " order by a.id desc limit #{size} offset #{offset}")
    List<Alert> alerts(
            @Param("flow") long flow,
            @Param("open") boolean open,
            @Param("like") String like,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from alert a " + NARROWED)
    long alertCount(@Param("flow") long flow, @Param("open") boolean open, @Param("like") String like);

    /** Returns one alert, or null. */
    @Select(ALERTS + "where a.id = #{id}")
    Alert alert(@Param("id") long id);

    /** Notes who has seen an alert; returns 0 where somebody has before. */
    @Update("update alert set acknowledged_at = now(), acknowledged_by = #{by}, note = #{note}"
            + " where id = #{id} and acknowledged_at is null")
    int acknowledge(@Param("id") long id, @Param("by") String by, @Param("note") String note);

    /** Adds a message. */
    @Insert("insert into alert_message (channel, target, subject, body, due_at)"
            + " values (#{channel}, #{target}, #{subject}, #{body}, #{due})")
    void write(
            @Param("channel") String channel,
            @Param("target") String target,
            @Param("subject") String subject,
            @Param("body") String body,
            @Param("due") Instant due);

    /** The columns of {@link Message}. */
    String MESSAGES =
            "select id, channel, target, subject, body, due_at, attempts, sent_at, failure from alert_message ";

    /**
     * Takes messages that are due, for the next five minutes, so that no other server sends them too; returns them.
     */
    @Select(
            value =
                    "update alert_message set due_at = now() + interval '5 minutes', attempts = attempts + 1 where id in"
                            + " (select id from alert_message where sent_at is null and due_at <= now() and attempts < #{most}"
                            + " order by due_at limit 20 for update skip locked) returning id, channel, target, subject, body,"
                            + " due_at, attempts, sent_at, failure",
            affectData = true)
    List<Message> takeDue(@Param("most") int most);

    /** Notes that a message was sent. */
    @Update("update alert_message set sent_at = now(), failure = null where id = #{id}")
    void sent(@Param("id") long id);

    /** Notes why a message could not be sent, and when it is tried again. */
    @Update("update alert_message set failure = #{failure}, due_at = #{due} where id = #{id}")
    void failed(@Param("id") long id, @Param("failure") String failure, @Param("due") Instant due);

    /** Returns messages, the newest first. */
    @Select(MESSAGES + "order by id desc limit #{size} offset #{offset}")
    List<Message> messages(@Param("size") int size, @Param("offset") long offset);

    /** Returns how many messages there are. */
    @Select("select count(*) from alert_message")
    long messageCount();

    /** Lets one server at a time look; held until the transaction ends. */
    @Select("select pg_try_advisory_xact_lock(815406)")
    boolean lookAlone();

    /** A run that something is to be told of. */
    record Told(Long id, Long flowId, String flowName, String environment, Long count, String text, Instant since) {}

    /** Returns runs with records in doubt that ended before a moment, and are open still. */
    @Select(
            "select r.id, r.flow_id, f.name, r.environment, r.in_doubt - r.doubt_settled n, '' words, r.ended_at from run r join flow f on f.id ="
                    + " r.flow_id where r.in_doubt > r.doubt_settled and r.state not in ('running') and r.ended_at < #{before} and r.ended_at >"
                    + " #{after} and (#{flow} = 0 or r.flow_id = #{flow})")
    List<Told> doubtful(@Param("flow") long flow, @Param("before") Instant before, @Param("after") Instant after);

    /** Returns runs that are on hold since before a moment. */
    @Select(
            "select r.id, r.flow_id, f.name, r.environment, 0 n, r.on_hold, r.on_hold_since from run r join flow f on f.id"
                    + " = r.flow_id where r.state = 'running' and r.on_hold_since < #{before} and (#{flow} = 0 or r.flow_id ="
                    + " #{flow})")
    List<Told> onHold(@Param("flow") long flow, @Param("before") Instant before);

    /** Returns runs that go on. */
    @Select(
            "select r.id, r.flow_id, f.name, r.environment, 0 n, '' words, r.started_at from run r join flow f on f.id = r.flow_id"
                    + " where r.state = 'running' and (#{flow} = 0 or r.flow_id = #{flow})")
    List<Told> going(@Param("flow") long flow);

    /** Returns how many seconds the last runs of a flow took that were done, in the middle; null for fewer than three. */
    @Select(
            "select case when count(*) >= 3 then percentile_cont(0.5) within group (order by extract(epoch from ended_at -"
                    + " started_at)) end from (select started_at, ended_at from run where flow_id = #{flow} and environment ="
                    + " #{environment} and state = 'done' and origin_run is null order by id desc limit 10) last")
    Double usualSeconds(@Param("flow") long flow, @Param("environment") String environment);

    /** Returns how many runs of a flow were done between two moments. */
    @Select("select count(*) from run where flow_id = #{flow} and environment = #{environment} and state = 'done'"
            + " and ended_at > #{after} and ended_at <= #{until}")
    long done(
            @Param("flow") long flow,
            @Param("environment") String environment,
            @Param("after") Instant after,
            @Param("until") Instant until);

    /** Returns how many runs of a flow files began between two moments. */
    @Select("select count(*) from run where flow_id = #{flow} and environment = #{environment} and begun_by = 'file'"
            + " and started_at > #{after} and started_at <= #{until}")
    long files(
            @Param("flow") long flow,
            @Param("environment") String environment,
            @Param("after") Instant after,
            @Param("until") Instant until);

    /** Returns watermarks that have not moved since before a moment; the run is null. */
    @Select(
            "select null::bigint id, w.flow_id, f.name, w.environment, 0 n, w.value, w.moved_at from watermark w join flow f on"
                    + " f.id = w.flow_id and f.archived_at is null where w.moved_at < #{before} and (#{flow} = 0 or w.flow_id ="
                    + " #{flow})")
    List<Told> still(@Param("flow") long flow, @Param("before") Instant before);
}
