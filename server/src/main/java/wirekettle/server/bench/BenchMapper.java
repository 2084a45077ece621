package wirekettle.server.bench;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** Calls made by hand. */
@Mapper
public interface BenchMapper {
    /** A call as it is stored; headers are JSON. */
    record Row(
            Long id,
            Long contractId,
            String service,
            String port,
            String operation,
            String endpoint,
            String environment,
            String address,
            String name,
            String state,
            String request,
            Integer status,
            String headers,
            String reply,
            Long replyBytes,
            String failure,
            Long millis,
            String calledBy,
            Instant calledAt,
            String sent,
            String sentHeaders,
            Long firstByteMillis,
            Long nameMillis,
            Long connectMillis,
            Long tlsMillis,
            String cause,
            String note) {}

    /** What travelled beside the envelope of a reply. */
    record AttachmentRow(Integer position, String contentId, String type, byte[] bytes) {}

    /** What became of a call; headers are JSON. */
    record End(
            String state,
            int status,
            String headers,
            String reply,
            long bytes,
            String failure,
            String cause,
            String note,
            long millis,
            Long firstByteMillis,
            String sent,
            String sentHeaders) {}

    /** Adds a call that is going on and returns its id. */
    @Select(
            value =
                    """
            insert into bench_call (contract_id, service, port, operation, endpoint, environment, address, state,
                request, called_by)
            values (#{contract}, #{service}, #{port}, #{operation}, #{endpoint}, #{environment}, #{address}, 'running',
                #{request}, #{by}) returning id
            """,
            affectData = true)
    long add(
            @Param("contract") long contract,
            @Param("service") String service,
            @Param("port") String port,
            @Param("operation") String operation,
            @Param("endpoint") String endpoint,
            @Param("environment") String environment,
            @Param("address") String address,
            @Param("request") String request,
            @Param("by") String by);

    /** Keeps what became of a call. */
    @Update(
            """
            update bench_call set state = #{end.state}, status = #{end.status}, headers = #{end.headers}::jsonb,
                reply = #{end.reply}, reply_bytes = #{end.bytes}, failure = #{end.failure}, cause = #{end.cause},
                note = #{end.note}, millis = #{end.millis}, first_byte_millis = #{end.firstByteMillis},
                sent = #{end.sent}, sent_headers = #{end.sentHeaders}::jsonb
            where id = #{id}
            """)
    void end(@Param("id") long id, @Param("end") End end);

    /** Keeps how long a connection took to make. */
    @Update(
            """
            update bench_call set name_millis = #{name}, connect_millis = #{connect}, tls_millis = #{tls}
            where id = #{id}
            """)
    void probed(@Param("id") long id, @Param("name") Long name, @Param("connect") Long connect, @Param("tls") Long tls);

    /** Keeps what travelled beside the envelope. */
    @Insert("insert into bench_attachment (call_id, position, content_id, type, bytes)"
            + " values (#{id}, #{position}, #{contentId}, #{type}, #{bytes})")
    void attach(
            @Param("id") long id,
            @Param("position") int position,
            @Param("contentId") String contentId,
            @Param("type") String type,
            @Param("bytes") byte[] bytes);

    /** Returns what travelled beside the envelope, in order. */
    @Select("select position, content_id, type, bytes from bench_attachment where call_id = #{id} order by position")
    List<AttachmentRow> attachments(@Param("id") long id);

    /** Returns one call, or null. */
    @Select("select * from bench_call where id = #{id}")
    Row byId(@Param("id") long id);

    /** Returns calls of an operation whose name or text matches, the newest first. */
    @Select(
            """
            select * from bench_call where contract_id = #{contract} and port = #{port} and operation = #{operation}
                and (name ilike #{like} or request ilike #{like} or coalesce(reply, '') ilike #{like})
            order by id desc limit #{size} offset #{offset}
            """)
    List<Row> page(
            @Param("contract") long contract,
            @Param("port") String port,
            @Param("operation") String operation,
            @Param("like") String like,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select(
            """
            select count(*) from bench_call where contract_id = #{contract} and port = #{port}
                and operation = #{operation}
                and (name ilike #{like} or request ilike #{like} or coalesce(reply, '') ilike #{like})
            """)
    long count(
            @Param("contract") long contract,
            @Param("port") String port,
            @Param("operation") String operation,
            @Param("like") String like);

    /** Gives a call a name. */
    @Update("update bench_call set name = #{name} where id = #{id}")
    void name(@Param("id") long id, @Param("name") String name);

    /** Calls that were going on when the server stopped were never seen to end. */
    @Update("update bench_call set state = 'failed', failure = 'the server stopped before the answer was there'"
            + " where state = 'running'")
    void interrupted();

    /** Removes a call. */
    @Delete("delete from bench_call where id = #{id}")
    void remove(@Param("id") long id);
}
