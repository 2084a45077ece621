package wirekettle.server.ledger;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/** Reads the ledger: how each record ended, its passages, their attempts and kept exchanges. */
@Mapper
public interface LedgerMapper {
    /** A ledger line as it is shown. */
    @Schema(
            name = "LedgerLine",
            requiredProperties = {"ordinal", "path", "fingerprint", "ended", "rows", "saved", "calls"})
    record Line(
            Long ordinal,
            String path,
            String key,
            String fingerprint,
            String ended,
            Integer rows,
            String failureClass,
            String cause,
            String message,
            String stage,
            String blame,
            String note,
            Boolean saved,
            String input,
            Integer calls) {}

    /** One effect of a record. */
    @Schema(
            name = "PassageLine",
            requiredProperties = {"path", "stage", "number", "outcome", "changes"})
    record PassageLine(String path, String stage, Integer number, String outcome, Boolean changes) {}

    /** The place a record had in a batch. */
    record BatchLine(String stage, Long first, String path, Integer position, Integer of, String said) {}

    /** A number drawn for a record, or for an item within it; whether it was given back at the end. */
    @Schema(requiredProperties = {"series", "text", "path", "stage", "givenBack"})
    record NumberLine(String series, String text, String path, String stage, Boolean givenBack) {}

    /** One try to call. */
    @Schema(requiredProperties = {"path", "stage", "number", "attempt", "startedAt", "millis", "status", "sent"})
    record AttemptLine(
            String path,
            String stage,
            Integer number,
            Integer attempt,
            Instant startedAt,
            Long millis,
            Integer status,
            Boolean sent,
            String failure) {}

    /** A kept exchange. */
    @Schema(requiredProperties = {"path", "stage", "number", "address", "request", "status"})
    record ExchangeLine(
            String path, String stage, Integer number, String address, String request, Integer status, String reply) {}

    /** Records that failed for one cause. */
    @Schema(requiredProperties = {"failureClass", "cause", "count", "ended"})
    record Cause(String failureClass, String cause, String stage, String blame, String ended, Long count) {}

    /** The fingerprint of a record that has ended. */
    record Ended(Long ordinal, String fingerprint) {}

    /** An effect of a record that has not ended, sealed. */
    record Open(
            Long ordinal,
            String path,
            String stage,
            Integer number,
            String outcome,
            String fingerprint,
            byte[] made,
            byte[] reply,
            Boolean ended,
            Boolean settled) {}

    /** A key that is held back, and the record it is held back behind. */
    record Held(String key, Long ordinal) {}

    /** The month of a run, by which its books are kept. */
    String MONTH = " month = (select month_of(started_at) from run where id = #{run}) and run_id = #{run} ";

    /** The columns of {@link Line}. */
    String LINE =
            "ordinal, path, key, fingerprint, ended, rows, failure_class, cause, message, stage, blame, note, saved,"
                    + " input, calls from record_end where" + MONTH;

    /** What lines can be narrowed to. */
    String NARROWED = " and ordinal > 0 and ended like #{ended} and (#{cause} = '%' or cause = #{cause})"
            + " and (#{stage} = '%' or stage = #{stage})"
            + " and (#{like} = '%' or key ilike #{like} or message ilike #{like} or ordinal::text like #{like}) ";

    /** Returns lines; ended, cause and stage % mean any. */
    @Select("select " + LINE + NARROWED + "order by ordinal limit #{size} offset #{offset}")
    List<Line> page(
            @Param("run") long run,
            @Param("ended") String ended,
            @Param("cause") String cause,
            @Param("stage") String stage,
            @Param("like") String like,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from record_end where" + MONTH + NARROWED)
    long count(
            @Param("run") long run,
            @Param("ended") String ended,
            @Param("cause") String cause,
            @Param("stage") String stage,
            @Param("like") String like);

    /** Returns one line, or null. */
    @Select("select " + LINE + "and ordinal = #{ordinal}")
    Line line(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Returns the numbers of the stages a record came to, with spaces between; null when that was not kept. */
    @Select("select entered from record_end where" + MONTH + "and ordinal = #{ordinal}")
    String entered(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Returns how a record's items ended that are not simply done, as JSON; null when all are. */
    @Select("select items from record_end where" + MONTH + "and ordinal = #{ordinal}")
    String items(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Returns the places a record had in batches, as JSON; null when it was in none. */
    @Select("select batches from record_end where" + MONTH + "and ordinal = #{ordinal}")
    String batches(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Returns the numbers drawn for a record, as JSON; null when there are none. */
    @Select("select numbers from record_end where" + MONTH + "and ordinal = #{ordinal}")
    String numbers(@Param("run") long run, @Param("ordinal") long ordinal);

    /** What a record handed on, sealed. */
    record Carried(byte[] carried) {}

    /**
     * Returns what the last record of a key that was done handed on, sealed; null when there is none: in a run, or in the
     * runs that a run sends records of again.
     */
    @Select("with recursive up as (select id, origin_run, started_at from run where id = #{run} union all select r.id,"
            + " r.origin_run, r.started_at from run r join up on r.id = up.origin_run), family as (select id, started_at"
            + " from up union select r.id, r.started_at from run r join family f on r.origin_run = f.id)"
            + " select e.carried from family f join record_end e on e.run_id = f.id and e.month = month_of(f.started_at)"
            + " where e.key = #{key} and e.carried is not null and (f.id <> #{run} or e.ordinal < #{ordinal})"
            + " order by f.id desc, e.ordinal desc limit 1")
    Carried carried(@Param("run") long run, @Param("key") String key, @Param("ordinal") long ordinal);

    /** The numbers a record sent again had drawn, as JSON. */
    record Numbered(Long ordinal, String numbers) {}

    /** Returns the numbers drawn for the records a run sends again, by their places in it, earlier runs first. */
    @Select(PICKS + "select r.ordinal, e.numbers from r"
            + " join record_end e on e.month = (select month_of(started_at) from run where id = r.origin_run)"
            + " and e.run_id = r.origin_run and e.ordinal = r.origin_ordinal"
            + " where e.numbers is not null order by r.ordinal, r.origin_run")
    List<Numbered> numbered(@Param("run") long run);

    /** Returns a record's effects. */
    @Select("select path, stage, number, outcome, changes from passage where" + MONTH
            + "and ordinal = #{ordinal} and stage <> '' order by path, number, stage")
    List<PassageLine> passages(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Returns the effects at a place of a record and within it. */
    @Select("select path, stage, number, outcome, changes from passage where" + MONTH
            + "and ordinal = #{ordinal} and (path = #{path} or path like #{path} || '/%') order by path, number, stage")
    List<PassageLine> passagesAt(@Param("run") long run, @Param("ordinal") long ordinal, @Param("path") String path);

    /** Returns the attempts at a place of a record and within it. */
    @Select("select path, stage, number, attempt, started_at, millis, status, sent, failure from passage_attempt where"
            + MONTH + "and ordinal = #{ordinal} and (path = #{path} or path like #{path} || '/%')"
            + " order by started_at, path, stage, number, attempt")
    List<AttemptLine> attemptsAt(@Param("run") long run, @Param("ordinal") long ordinal, @Param("path") String path);

    /** Returns the exchanges kept at a place of a record and within it. */
    @Select("select path, stage, number, address, request, status, reply from passage_exchange where" + MONTH
            + "and ordinal = #{ordinal} and (path = #{path} or path like #{path} || '/%') order by path, stage, number")
    List<ExchangeLine> exchangesAt(@Param("run") long run, @Param("ordinal") long ordinal, @Param("path") String path);

    /** Returns a record's attempts. */
    @Select("select path, stage, number, attempt, started_at, millis, status, sent, failure from passage_attempt where"
            + MONTH + "and ordinal = #{ordinal} order by started_at, path, stage, number, attempt")
    List<AttemptLine> attempts(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Returns a record's kept exchanges. */
    @Select("select path, stage, number, address, request, status, reply from passage_exchange where" + MONTH
            + "and ordinal = #{ordinal} order by path, stage, number")
    List<ExchangeLine> exchanges(@Param("run") long run, @Param("ordinal") long ordinal);

    /** Returns causes with how many records each has, the most first. */
    @Select("select failure_class, cause, stage, blame, ended, count from run_cause where run_id = #{run}"
            + " order by count desc, cause")
    List<Cause> causes(@Param("run") long run);

    /** Returns the fingerprints of records that have ended, behind a place, in order. */
    @Select("select ordinal, fingerprint from record_end where" + MONTH
            + "and ordinal > #{after} order by ordinal limit #{most}")
    List<Ended> ended(@Param("run") long run, @Param("after") long after, @Param("most") int most);

    /** Returns the effects of records that have not ended, and of batches that hold such a record. */
    @Select("select ordinal, path, stage, number, outcome, fingerprint, made, reply, ended, false settled from"
            + " (select ordinal, path, stage, number, outcome, fingerprint, made, reply, last_member, exists"
            + " (select 1 from record_end e where e.month = p.month and e.run_id = p.run_id and e.ordinal = p.ordinal)"
            + " ended from passage p where" + MONTH + "and made is not null) p where not ended or last_member >"
            + " (select coalesce(max(ordinal), 0) from record_end where" + MONTH + ")"
            + " order by ordinal, path, stage, number")
    List<Open> open(@Param("run") long run);

    /** A record a run sends again, where it stands in the input, and its fingerprint. */
    record Picked(Long ordinal, Long place, String fingerprint) {}

    /**
     * The records a run sends again as {@code r}, with what they were in all runs before: a resend can be sent again.
     */
    String PICKS = "with recursive r as (select ordinal, origin_run, origin_ordinal from run_pick where run_id = #{run}"
            + " union all select r.ordinal, k.origin_run, k.origin_ordinal from r"
            + " join run_pick k on k.run_id = r.origin_run and k.ordinal = r.origin_ordinal) ";

    /** Returns the effects of the records a run sends again, by their places in it, those of earlier runs first. */
    @Select(PICKS + "select r.ordinal, p.path, p.stage, p.number, p.outcome, p.fingerprint, p.made, p.reply,"
            + " false ended, exists (select 1 from settlement s where s.run_id = r.origin_run and s.ordinal ="
            + " r.origin_ordinal and s.what = 'not-done') settled from r"
            + " join passage p on p.month = (select month_of(started_at) from run where id = r.origin_run)"
            + " and p.run_id = r.origin_run and p.ordinal = r.origin_ordinal"
            + " where p.made is not null or p.outcome in ('undone', 'in-doubt')"
            + " order by r.ordinal, r.origin_run, p.path, p.stage, p.number")
    List<Open> before(@Param("run") long run);

    /** What a record was accepted with, sealed. */
    record Accepted(Long ordinal, byte[] verdicts) {}

    /** Returns what the records a run sends again were accepted with, by their places in it, earlier runs first. */
    @Select(PICKS + "select r.ordinal, e.verdicts from r"
            + " join record_end e on e.month = (select month_of(started_at) from run where id = r.origin_run)"
            + " and e.run_id = r.origin_run and e.ordinal = r.origin_ordinal"
            + " where e.verdicts is not null order by r.ordinal, r.origin_run")
    List<Accepted> accepted(@Param("run") long run);

    /** Returns the records a run sends again, in order. */
    @Select(PICKS + "select r.ordinal, r.origin_ordinal place, e.fingerprint from r"
            + " join record_end e on e.month = (select month_of(started_at) from run where id = r.origin_run)"
            + " and e.run_id = r.origin_run and e.ordinal = r.origin_ordinal"
            + " where not exists (select 1 from run_pick k where k.run_id = r.origin_run) order by r.ordinal")
    List<Picked> picked(@Param("run") long run);

    /** Which records of a run can be sent again, and are not yet: as {@code e}. */
    String SENDABLE = " and e.ordinal > 0 and (e.ended in ('rejected', 'held-back') and not exists (select 1 from"
            + " settlement s where s.run_id = e.run_id and s.ordinal = e.ordinal) or e.ended = 'in-doubt' and exists"
            + " (select 1 from settlement s where s.run_id = e.run_id and s.ordinal = e.ordinal and s.what = 'not-done'))"
            + " and not exists (select 1 from run_pick k where k.origin_run = e.run_id and k.origin_ordinal = e.ordinal) ";

    /** Which of them are meant: those of a cause, or some with what is held back behind them. */
    String MEANT = " and (#{cause} = '%' or e.cause = #{cause}) and (#{ordinals} = '' or e.ordinal = any"
            + " (string_to_array(#{ordinals}, ',')::bigint[]) or e.ended = 'held-back' and e.key in (select b.key from"
            + " record_end b where b.run_id = e.run_id and b.month = e.month and b.ordinal = any"
            + " (string_to_array(#{ordinals}, ',')::bigint[]))) ";

    /**
     * Picks records of a run that can be sent again, with their corrections, for another run; returns how many. Cause %
     * means any; ordinals are separated by commas, none means all.
     */
    @Insert("insert into run_pick (run_id, ordinal, origin_run, origin_ordinal, fields)"
            + " select #{by}, row_number() over (order by e.ordinal), e.run_id, e.ordinal, c.fields from record_end e"
            + " left join correction c on c.run_id = e.run_id and c.ordinal = e.ordinal where e.run_id = #{run} and e.month"
            + " = (select month_of(started_at) from run where id = #{run})" + SENDABLE + MEANT)
    int pick(
            @Param("run") long run,
            @Param("by") long by,
            @Param("cause") String cause,
            @Param("ordinals") String ordinals);

    /**
     * Which records of a run can be asked about, and are not yet, as {@code e}: all that is in doubt of them are calls
     * with a rule that asks.
     */
    String ASKABLE =
            " and e.ordinal > 0 and not exists (select 1 from settlement s where s.run_id = e.run_id and s.ordinal"
                    + " = e.ordinal) and not exists (select 1 from run_pick k where k.origin_run = e.run_id and k.origin_ordinal ="
                    + " e.ordinal) and e.ended = 'in-doubt' and (select coalesce(bool_and(p.stage = any (string_to_array(#{calls},"
                    + " ',')) and p.path not like '%:undo%'), false) from passage p where p.run_id = e.run_id and p.month = e.month"
                    + " and p.ordinal = e.ordinal and p.outcome = 'in-doubt') ";

    /** Returns how many records of a run can be asked about. */
    @Select(
            "select count(*) from record_end e where e.run_id = #{run} and e.month = (select month_of(started_at) from run"
                    + " where id = #{run})" + ASKABLE + MEANT)
    long askable(
            @Param("run") long run,
            @Param("calls") String calls,
            @Param("cause") String cause,
            @Param("ordinals") String ordinals);

    /** Picks the records of a run that can be asked about for another run; returns how many. */
    @Insert(
            "insert into run_pick (run_id, ordinal, origin_run, origin_ordinal) select #{by}, row_number() over (order by"
                    + " e.ordinal), e.run_id, e.ordinal from record_end e where e.run_id = #{run} and e.month = (select"
                    + " month_of(started_at) from run where id = #{run})" + ASKABLE + MEANT)
    int pickAskable(
            @Param("run") long run,
            @Param("by") long by,
            @Param("calls") String calls,
            @Param("cause") String cause,
            @Param("ordinals") String ordinals);

    /** Returns how many of the records a run sends again were rejected or held back in the first one. */
    @Select(
            "select count(*) from run_pick k join record_end e on e.run_id = k.origin_run and e.ordinal = k.origin_ordinal"
                    + " and e.month = (select month_of(started_at) from run where id = k.origin_run)"
                    + " where k.run_id = #{run} and e.ended in ('rejected', 'held-back')")
    int pickedOpen(@Param("run") long run);

    /** Returns how many records that can be sent again have a change that is done. */
    @Select(
            "select count(*) from record_end e where e.run_id = #{run} and e.month = (select month_of(started_at) from run"
                    + " where id = #{run})" + SENDABLE + MEANT
                    + "and exists (select 1 from passage p where p.run_id = e.run_id and"
                    + " p.month = e.month and p.ordinal = e.ordinal and p.changes and p.outcome = 'done' and p.path not like"
                    + " '%:undo%')")
    long did(@Param("run") long run, @Param("cause") String cause, @Param("ordinals") String ordinals);

    /** What a person changed in a record that is sent again, as JSON. */
    record Edited(Long ordinal, String fields) {}

    /** Returns what was changed in the records a run sends again, by their places in it, earlier changes first. */
    @Select(
            "with recursive r as (select ordinal top, fields, origin_run, origin_ordinal, 0 depth from run_pick where run_id"
                    + " = #{run} union all select r.top, k.fields, k.origin_run, k.origin_ordinal, r.depth + 1 from r join run_pick"
                    + " k on k.run_id = r.origin_run and k.ordinal = r.origin_ordinal) select top, fields::text from r where fields"
                    + " is not null order by top, depth desc")
    List<Edited> edited(@Param("run") long run);

    /** Returns which of what is run once is over: 0 before the first record, -1 after the last. */
    @Select("select ordinal from record_end where" + MONTH + "and ordinal < 1")
    List<Long> over(@Param("run") long run);

    /** Returns the keys held back. */
    @Select("select key, min(ordinal) ordinal from record_end where" + MONTH
            + "and ended in ('rejected', 'in-doubt') and key is not null group by key")
    List<Held> held(@Param("run") long run);
}
