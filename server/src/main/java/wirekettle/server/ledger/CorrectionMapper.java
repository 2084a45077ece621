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

/** What people changed in records that are not done, and what they said of them. */
@Mapper
public interface CorrectionMapper {
    /** A record that can be sent again, with what was changed in it; fields are JSON, null for nothing. */
    record Row(
            Long ordinal,
            String key,
            String ended,
            String cause,
            String message,
            String stage,
            String blame,
            String input,
            String fields,
            Integer version,
            Instant changedAt,
            String changedBy) {}

    /** What was said of a record. */
    @Schema(
            name = "Settlement",
            requiredProperties = {"ordinal", "what", "reason", "settledAt", "settledBy"})
    record Settlement(Long ordinal, String what, String reason, Instant settledAt, String settledBy) {}

    /** A record of any run. */
    @Schema(
            name = "FoundRecord",
            requiredProperties = {"run", "flowId", "flowName", "environment", "ordinal", "key", "ended", "startedAt"})
    record Found(
            Long run,
            Long flowId,
            String flowName,
            String environment,
            Long ordinal,
            String key,
            String ended,
            String message,
            Instant startedAt,
            Long sentAgainIn,
            String settled) {}

    /** The records of a run that can be sent again. */
    String FROM =
            " from record_end e left join correction c on c.run_id = e.run_id and c.ordinal = e.ordinal where e.run_id"
                    + " = #{run} and e.month = (select month_of(started_at) from run where id = #{run})"
                    + LedgerMapper.SENDABLE
                    + " and (#{cause} = '%' or e.cause = #{cause}) and (#{like} = '%' or e.key ilike #{like} or e.input ilike"
                    + " #{like} or e.ordinal::text like #{like}) ";

    /** Returns the records of a run that can be sent again; cause % means any. */
    @Select(
            "select e.ordinal, e.key, e.ended, e.cause, e.message, e.stage, e.blame, e.input, c.fields::text, c.version,"
                    + " c.changed_at, c.changed_by" + FROM + "order by e.ordinal limit #{size} offset #{offset}")
    List<Row> page(
            @Param("run") long run,
            @Param("cause") String cause,
            @Param("like") String like,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*)" + FROM)
    long count(@Param("run") long run, @Param("cause") String cause, @Param("like") String like);

    /** Returns one of them, or null. */
    @Select(
            "select e.ordinal, e.key, e.ended, e.cause, e.message, e.stage, e.blame, e.input, c.fields::text, c.version,"
                    + " c.changed_at, c.changed_by from record_end e left join correction c on c.run_id = e.run_id and c.ordinal ="
                    + " e.ordinal where e.run_id = #{run} and e.month = (select month_of(started_at) from run where id = #{run})"
                    + LedgerMapper.SENDABLE + "and e.ordinal = #{ordinal}")
    Row one(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Keeps what was changed in a record, only when nobody did so since a version, 0 for never; returns how many. */
    @Insert("insert into correction as c (run_id, ordinal, fields, changed_by) select #{run}, #{ordinal},"
            + " #{fields}::jsonb, #{by} where #{version} = 0 or exists (select 1 from correction where run_id = #{run} and"
            + " ordinal = #{ordinal}) on conflict (run_id, ordinal) do update set fields = excluded.fields, version ="
            + " c.version + 1, changed_at = now(), changed_by = excluded.changed_by where c.version = #{version}")
    int keep(
            @Param("run") long run,
            @Param("ordinal") long ordinal,
            @Param("version") int version,
            @Param("fields") String fields,
            @Param("by") String by);

    /** Forgets what was changed in a record. */
    @Delete("delete from correction where run_id = #{run} and ordinal = #{ordinal}")
    void forget(@Param("run") long run, @Param("ordinal") long ordinal);

    /**
     * Says something of records of a run that wait for it; ordinals are separated by commas, none means all of a cause.
     *
     * @param ends in which ends they are, separated by commas
     * @return how many
     */
    @Insert("insert into settlement (run_id, ordinal, what, reason, settled_by) select e.run_id, e.ordinal, #{what},"
            + " #{reason}, #{by} from record_end e where e.run_id = #{run} and e.month = (select month_of(started_at) from"
            + " run where id = #{run}) and e.ordinal > 0 and e.ended = any (string_to_array(#{ends}, ',')) and (#{cause} ="
            + " '%' or e.cause = #{cause}) and (#{ordinals} = '' or e.ordinal = any (string_to_array(#{ordinals},"
            + " ',')::bigint[])) and not exists (select 1 from run_pick k where k.origin_run = e.run_id and"
            + " k.origin_ordinal = e.ordinal) on conflict do nothing")
    int settle(
            @Param("run") long run,
            @Param("what") String what,
            @Param("reason") String reason,
            @Param("by") String by,
            @Param("ends") String ends,
            @Param("cause") String cause,
            @Param("ordinals") String ordinals);

    /** Counts records that were discarded, or in doubt and settled. */
    @Update("update run set discarded = discarded + #{discarded}, doubt_settled = doubt_settled + #{settled}"
            + " where id = #{run}")
    void countSettled(@Param("run") long run, @Param("discarded") int discarded, @Param("settled") int settled);

    /** Returns what was said of a record, or null. */
    @Select("select ordinal, what, reason, settled_at, settled_by from settlement where run_id = #{run} and ordinal ="
            + " #{ordinal}")
    Settlement settlement(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Returns the run that sends a record again, or null. */
    @Select("select run_id from run_pick where origin_run = #{run} and origin_ordinal = #{ordinal}")
    Long sentAgainIn(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Records whose key begins with a text. */
    String OF_KEY =
            " from record_end e join run r on r.id = e.run_id and e.month = month_of(r.started_at) join flow f on"
                    + " f.id = r.flow_id where e.key like #{like} and e.ordinal > 0 ";

    /** Returns records of all runs whose key is like a text, the newest first. */
    @Select("select r.id, r.flow_id, f.name, r.environment, e.ordinal, e.key, e.ended, e.message, r.started_at, (select"
            + " k.run_id from run_pick k where k.origin_run = e.run_id and k.origin_ordinal = e.ordinal), (select s.what"
            + " from settlement s where s.run_id = e.run_id and s.ordinal = e.ordinal)" + OF_KEY
            + "order by r.id desc, e.ordinal limit #{size} offset #{offset}")
    List<Found> ofKey(@Param("like") String like, @Param("size") int size, @Param("offset") long offset);

    /** Returns how many there are, at most ten thousand. */
    @Select("select count(*) from (select 1" + OF_KEY + "limit 10000) found")
    long ofKeyCount(@Param("like") String like);
}
