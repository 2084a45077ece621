package wirekettle.server.simulators;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/** Simulators and what they received. */
@Mapper
public interface SimulatorMapper {
    /** A simulator as it is stored; rules are JSON. */
    record Row(
            Long id,
            String name,
            Long contractId,
            String contract,
            String rules,
            Integer version,
            Boolean running,
            String madeBy,
            Instant madeAt,
            Long received) {}

    /** A request a simulator received, and what it answered. */
    @Schema(
            name = "SimulatorRequest",
            requiredProperties = {"id", "receivedAt", "request", "status"})
    record Received(
            Long id,
            Instant receivedAt,
            String operation,
            Integer rule,
            String request,
            Integer status,
            String reply,
            String problem) {}

    /** Returns simulators whose name or contract matches. */
    @Select(
            """
            select s.id, s.name, s.contract_id, c.name contract, s.rules, s.version, s.running, s.made_by, s.made_at,
                (select count(*) from simulator_request r where r.simulator_id = s.id) received
            from simulator s join contract c on c.id = s.contract_id
            where s.name ilike #{like} or c.name ilike #{like} order by lower(s.name) limit #{size} offset #{offset}
            """)
    List<Row> page(@Param("like") String like, @Param("size") int size, @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from simulator s join contract c on c.id = s.contract_id"
            + " where s.name ilike #{like} or c.name ilike #{like}")
    long count(@Param("like") String like);

    /** Returns a simulator, or null. */
    @Select(
            """
            select s.id, s.name, s.contract_id, c.name contract, s.rules, s.version, s.running, s.made_by, s.made_at,
                (select count(*) from simulator_request r where r.simulator_id = s.id) received
            from simulator s join contract c on c.id = s.contract_id where s.id = #{id}
            """)
    Row byId(@Param("id") long id);

    /** Adds a simulator and returns its id. */
    @Select(
            value =
                    "insert into simulator (name, contract_id, made_by) values (#{name}, #{contract}, #{by}) returning id",
            affectData = true)
    long add(@Param("name") String name, @Param("contract") long contract, @Param("by") String by);

    /** Changes a simulator; returns 0 when someone else did since the version given. */
    @Update(
            """
            update simulator set name = #{name}, rules = #{rules}::jsonb, running = #{running}, version = version + 1
            where id = #{id} and version = #{version}
            """)
    int change(
            @Param("id") long id,
            @Param("version") int version,
            @Param("name") String name,
            @Param("rules") String rules,
            @Param("running") boolean running);

    /** Removes a simulator. */
    @Delete("delete from simulator where id = #{id}")
    void remove(@Param("id") long id);

    /** Keeps a request with its answer. */
    @Insert(
            """
            insert into simulator_request (simulator_id, operation, rule, request, status, reply, problem)
            values (#{id}, #{operation}, #{rule}, #{request}, #{status}, #{reply}, #{problem})
            """)
    void received(
            @Param("id") long id,
            @Param("operation") String operation,
            @Param("rule") Integer rule,
            @Param("request") String request,
            @Param("status") int status,
            @Param("reply") String reply,
            @Param("problem") String problem);

    /** Forgets all but the newest requests. */
    @Delete(
            """
            delete from simulator_request where simulator_id = #{id} and id <= (select id from simulator_request
                where simulator_id = #{id} order by id desc limit 1 offset #{kept})
            """)
    void forget(@Param("id") long id, @Param("kept") int kept);

    /** Returns requests of a simulator that match, the newest first. */
    @Select(
            """
            select id, received_at, operation, rule, request, status, reply, problem from simulator_request
            where simulator_id = #{id} and (coalesce(operation, '') ilike #{like} or request ilike #{like}
                or coalesce(reply, '') ilike #{like} or coalesce(problem, '') ilike #{like})
            order by id desc limit #{size} offset #{offset}
            """)
    List<Received> requests(
            @Param("id") long id, @Param("like") String like, @Param("size") int size, @Param("offset") long offset);

    /** Returns how many match. */
    @Select(
            """
            select count(*) from simulator_request
            where simulator_id = #{id} and (coalesce(operation, '') ilike #{like} or request ilike #{like}
                or coalesce(reply, '') ilike #{like} or coalesce(problem, '') ilike #{like})
            """)
    long requestCount(@Param("id") long id, @Param("like") String like);
}
