package wirekettle.server.runs;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/** The ledger: a line a record, its attempts and kept exchanges. Batches come as one JSON array. */
@Mapper
public interface LedgerMapper {
    /** A ledger line as it is shown. */
    @Schema(
            name = "LedgerLine",
            requiredProperties = {"ordinal", "splitPath", "fingerprint", "outcome", "rows", "calls"})
    record Line(
            Long ordinal,
            String splitPath,
            String key,
            String fingerprint,
            String outcome,
            Integer rows,
            String failureClass,
            String cause,
            String message,
            String stage,
            String blame,
            String note,
            String input,
            Integer calls) {}

    /** One try to call. */
    @Schema(requiredProperties = {"number", "startedAt", "millis", "status", "sent"})
    record AttemptLine(Integer number, Instant startedAt, Long millis, Integer status, Boolean sent, String failure) {}

    /** A kept exchange. */
    @Schema(requiredProperties = {"address", "request", "status"})
    record ExchangeLine(String address, String request, Integer status, String reply) {}

    /** Records that failed for one cause. */
    @Schema(requiredProperties = {"failureClass", "cause", "count", "outcome"})
    record Cause(String failureClass, String cause, String stage, String blame, String outcome, Long count) {}

    /** Adds ledger lines. */
    @Insert(
            """
            insert into ledger (run_id, ordinal, split_path, key, fingerprint, outcome, rows, failure_class, cause,
                message, stage, blame, note, input, calls)
            select #{run}, l.ordinal, l.ordinal::text, l.key, l.fingerprint, l.outcome, l.rows, l."failureClass",
                l.cause, l.message, l.stage, l.blame, l.note, l.input, l.calls
            from jsonb_to_recordset(#{lines}::jsonb) as l(ordinal bigint, key text, fingerprint text, outcome text,
                rows int, "failureClass" text, cause text, message text, stage text, blame text, note text, input text,
                calls int)
            """)
    void addLines(@Param("run") long run, @Param("lines") String lines);

    /** Adds attempts. */
    @Insert(
            """
            insert into attempt (run_id, ordinal, number, started_at, millis, status, sent, failure)
            select #{run}, a.ordinal, a.number, a."startedAt", a.millis, a.status, a.sent, a.failure
            from jsonb_to_recordset(#{attempts}::jsonb) as a(ordinal bigint, number int, "startedAt" timestamptz,
                millis bigint, status int, sent boolean, failure text)
            """)
    void addAttempts(@Param("run") long run, @Param("attempts") String attempts);

    /** Adds kept exchanges. */
    @Insert(
            """
            insert into exchange (run_id, ordinal, address, request, status, reply)
            select #{run}, e.ordinal, e.address, e.request, e.status, e.reply
            from jsonb_to_recordset(#{exchanges}::jsonb) as e(ordinal bigint, address text, request text, status int,
                reply text)
            """)
    void addExchanges(@Param("run") long run, @Param("exchanges") String exchanges);

    /** Returns lines; outcome and cause % mean any. */
    @Select(
            """
            select ordinal, split_path, key, fingerprint, outcome, rows, failure_class, cause, message, stage, blame,
                note, input, calls
            from ledger where run_id = #{run} and outcome like #{outcome} and (#{cause} = '%' or cause = #{cause})
                and (#{like} = '%' or key ilike #{like} or message ilike #{like} or ordinal::text like #{like})
            order by ordinal limit #{size} offset #{offset}
            """)
    List<Line> page(
            @Param("run") long run,
            @Param("outcome") String outcome,
            @Param("cause") String cause,
            @Param("like") String like,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select(
            """
            select count(*) from ledger
            where run_id = #{run} and outcome like #{outcome} and (#{cause} = '%' or cause = #{cause})
                and (#{like} = '%' or key ilike #{like} or message ilike #{like} or ordinal::text like #{like})
            """)
    long count(
            @Param("run") long run,
            @Param("outcome") String outcome,
            @Param("cause") String cause,
            @Param("like") String like);

    /** Returns one line, or null. */
    @Select(
            """
            select ordinal, split_path, key, fingerprint, outcome, rows, failure_class, cause, message, stage, blame,
                note, input, calls
            from ledger where run_id = #{run} and ordinal = #{ordinal}
            """)
    Line line(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Returns a record's attempts. */
    @Select("select number, started_at, millis, status, sent, failure from attempt"
            + " where run_id = #{run} and ordinal = #{ordinal} order by number")
    List<AttemptLine> attempts(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Returns a record's kept exchange, or null. */
    @Select("select address, request, status, reply from exchange where run_id = #{run} and ordinal = #{ordinal}")
    ExchangeLine exchange(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Returns causes with how many records each has, the most first. */
    @Select(
            """
            select failure_class, cause, min(stage) stage, min(blame) blame, outcome, count(*) count from ledger
            where run_id = #{run} and cause is not null
            group by failure_class, cause, outcome order by count(*) desc, cause
            """)
    List<Cause> causes(@Param("run") long run);
}
