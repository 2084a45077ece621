package wirekettle.server.bench;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
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
            Instant calledAt) {}

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
            update bench_call set state = #{state}, status = #{status}, headers = #{headers}::jsonb, reply = #{reply},
                reply_bytes = #{bytes}, failure = #{failure}, millis = #{millis} where id = #{id}
            """)
    void end(
            @Param("id") long id,
            @Param("state") String state,
            @Param("status") int status,
            @Param("headers") String headers,
            @Param("reply") String reply,
            @Param("bytes") long bytes,
            @Param("failure") String failure,
            @Param("millis") long millis);

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
