package wirekettle.server.runs;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/** Runs; their counts are counted from the ledger. */
@Mapper
public interface RunMapper {
    /** The columns of {@link Row}, counts included. */
    String COLUMNS =
            """
            r.id, r.flow_id, f.name flow_name, r.flow_revision, r.environment, r.state, r.started_by, r.started_at, r.ended_at,
            r.total, r.claimed, coalesce(c.done, 0) done, coalesce(c.written, 0) written,
            coalesce(c.rejected, 0) rejected, coalesce(c.in_doubt, 0) in_doubt, coalesce(c.rows, 0) rows,
            coalesce(c.calls, 0) calls, r.output_file, r.message
            from run r join flow f on f.id = r.flow_id
            left join lateral (
                select count(*) done, count(*) filter (where outcome = 'written') written,
                    count(*) filter (where outcome = 'rejected') rejected,
                    count(*) filter (where outcome = 'in-doubt') in_doubt, sum(rows) rows, sum(calls) calls
                from ledger where run_id = r.id) c on true
            """;

    /** A run with its counts. */
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
                "claimed",
                "done",
                "written",
                "rejected",
                "inDoubt",
                "rows",
                "calls"
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
            Long claimed,
            Long done,
            Long written,
            Long rejected,
            Long inDoubt,
            Long rows,
            Long calls,
            String outputFile,
            String message) {}

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

    /** Returns a flow's last run, or null. */
    @Select("select " + COLUMNS + " where r.flow_id = #{flow} order by r.id desc limit 1")
    Row last(@Param("flow") long flow);

    /** Adds a running run and returns its id. */
    @Select(
            value =
                    """
            insert into run (flow_id, flow_revision, contract_hash, environment, state, started_by, started_at, total)
            values (#{flow}, #{revision}, #{hash}, #{environment}, 'running', #{by}, #{at}, #{total}) returning id
            """,
            affectData = true)
    long add(
            @Param("flow") long flow,
            @Param("revision") int revision,
            @Param("hash") String contractHash,
            @Param("environment") String environment,
            @Param("by") String by,
            @Param("at") Instant at,
            @Param("total") long total);

    /** Notes the file with the results. */
    @Update("update run set output_file = #{file} where id = #{id}")
    void output(@Param("id") long id, @Param("file") String file);

    /** Says that records up to an ordinal may have been sent. */
    @Update("update run set claimed = greatest(claimed, #{claimed}) where id = #{id}")
    void claim(@Param("id") long id, @Param("claimed") long claimed);

    /** Notes how far the output is committed, and how far records may have been sent. */
    @Update("update run set output_offset = #{offset}, claimed = greatest(claimed, #{claimed}) where id = #{id}")
    void progress(@Param("id") long id, @Param("offset") long offset, @Param("claimed") long claimed);

    /** Ends a run. */
    @Update("update run set state = #{state}, message = #{message}, ended_at = now() where id = #{id}")
    void end(@Param("id") long id, @Param("state") String state, @Param("message") String message);

    /** Marks runs that were going on when the server ended. */
    @Update("update run set state = 'interrupted', ended_at = now(),"
            + " message = 'The server stopped in the middle of this run.' where state = 'running'")
    int interrupt();
}
