package wirekettle.server.flows;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** Replies of sample calls, kept so that later stages can be worked on without calling again. */
@Mapper
public interface KeptReplyMapper {
    /** A kept reply; the path is that of an item of the record, empty for the record itself. */
    record Row(
            Long record,
            String path,
            String environment,
            String requestHash,
            String request,
            Integer status,
            String reply,
            String failure,
            Long millis,
            Instant calledAt) {}

    /** Returns the kept replies of a stage in an environment, by record. */
    @Select("select record, path, environment, request_hash, request, status, reply, failure, millis, called_at"
            + " from kept_reply where flow_id = #{flow} and stage = #{stage} and environment = #{environment}"
            + " order by record, path")
    List<Row> all(@Param("flow") long flow, @Param("stage") String stage, @Param("environment") String environment);

    /** Returns how many characters the kept replies of a stage in an environment have together. */
    @Select("select coalesce(sum(length(reply)), 0) from kept_reply"
            + " where flow_id = #{flow} and stage = #{stage} and environment = #{environment}")
    long size(@Param("flow") long flow, @Param("stage") String stage, @Param("environment") String environment);

    /** Returns the kept replies of a stage wherever they came from, the newest first. */
    @Select("select record, path, environment, request_hash, request, status, reply, failure, millis, called_at"
            + " from kept_reply where flow_id = #{flow} and stage = #{stage} order by called_at desc limit 20")
    List<Row> everywhere(@Param("flow") long flow, @Param("stage") String stage);

    /** Keeps a reply in place of an older one for the same record. */
    @Insert(
            """
            insert into kept_reply (flow_id, stage, record, path, endpoint, environment, request_hash, request, status,
                reply, failure, millis)
            values (#{flow}, #{stage}, #{record}, #{path}, #{endpoint}, #{environment}, #{hash}, #{request}, #{status},
                #{reply}, #{failure}, #{millis})
            on conflict (flow_id, stage, record, path, endpoint, environment) do update set
                request_hash = excluded.request_hash, request = excluded.request, status = excluded.status,
                reply = excluded.reply, failure = excluded.failure, millis = excluded.millis, called_at = now()
            """)
    void keep(
            @Param("flow") long flow,
            @Param("stage") String stage,
            @Param("record") long record,
            @Param("path") String path,
            @Param("endpoint") String endpoint,
            @Param("environment") String environment,
            @Param("hash") String hash,
            @Param("request") String request,
            @Param("status") int status,
            @Param("reply") String reply,
            @Param("failure") String failure,
            @Param("millis") long millis);
}
