package wirekettle.server.ledger;

import com.fasterxml.jackson.core.type.TypeReference;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.server.web.Json;

/** How runs went over time. */
@Mapper
public interface PaceMapper {
    /** A step as it is stored; the counts are JSON. */
    record Row(Instant at, Long ended, Long failed, Long calls, String answered) {}

    /**
     * A step of a run.
     *
     * @param at when it begins
     * @param seconds how long it is
     * @param ended records that ended in it
     * @param failed those that are neither done nor left out
     * @param calls tries to call that were over
     * @param median the time within which half of them were answered, in milliseconds; null for none
     * @param most the time within which 95 of a hundred were
     */
    @Schema(
            name = "PaceStep",
            requiredProperties = {"at", "seconds", "ended", "failed", "calls"})
    record Step(Instant at, int seconds, long ended, long failed, long calls, Double median, Double most) {}

    /** A record whose calls took long. */
    @Schema(
            name = "SlowRecord",
            requiredProperties = {"ordinal", "millis", "calls"})
    record Slow(Long ordinal, String key, Long millis, Integer calls) {}

    /** Returns the steps of a run, several of five seconds put together. */
    @Select(
            "with steps as (select to_timestamp(floor(extract(epoch from at) / #{seconds}) * #{seconds}) step, ended, failed,"
                    + " calls, answered from run_pace where run_id = #{run}) select step, sum(ended)::bigint ended, sum(failed)::bigint failed,"
                    + " sum(calls)::bigint calls, (select json_agg(n order by i) from (select i, sum(x)::bigint n from steps s,"
                    + " unnest(s.answered) with ordinality as t (x, i) where s.step = o.step group by i) sums)::text answered from steps o"
                    + " group by step order by step")
    List<Row> rows(@Param("run") long run, @Param("seconds") int seconds);

    /** Returns how long a run has taken so far by its steps, in seconds. */
    @Select("select coalesce(extract(epoch from max(at) - min(at)), 0)::bigint from run_pace where run_id = #{run}")
    long seconds(@Param("run") long run);

    /** Returns the records of a run whose calls took longest, as JSON. */
    @Select("select slowest::text from run where id = #{run}")
    String slowest(@Param("run") long run);

    /** Returns the last run of the same flow and environment before a run that was done and sent nothing again, or null. */
    @Select(
            "select b.id from run r join run b on b.flow_id = r.flow_id and b.environment = r.environment and b.id < r.id"
                    + " and b.state = 'done' and b.origin_run is null where r.id = #{run} order by b.id desc limit 1")
    Long before(@Param("run") long run);

    /** Returns the steps of a run, at most about a hundred and twenty. */
    default List<Step> steps(long run) {
        int most = 120;
        int seconds =
                (int) Math.max(1, Math.ceil(seconds(run) / (double) most / Pace.STEP_SECONDS)) * Pace.STEP_SECONDS;
        List<Step> steps = new ArrayList<>();
        for (Row row : rows(run, seconds)) {
            List<Long> answered = Json.read(row.answered(), new TypeReference<>() {});
            steps.add(new Step(
                    row.at(),
                    seconds,
                    row.ended(),
                    row.failed(),
                    row.calls(),
                    AnswerTimes.within(answered, 0.5),
                    AnswerTimes.within(answered, 0.95)));
        }
        return steps;
    }
}
