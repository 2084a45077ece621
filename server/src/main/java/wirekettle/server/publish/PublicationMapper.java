package wirekettle.server.publish;

import com.fasterxml.jackson.core.type.TypeReference;
import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import wirekettle.server.web.Json;

/** What was put into force, newest lines first. */
@Mapper
public interface PublicationMapper {
    /** A publication as it is stored; contracts and values are JSON. */
    record Row(
            Long id,
            Long flowId,
            String flowName,
            String environment,
            Integer revision,
            String contracts,
            String values,
            String note,
            Long beforeId,
            Instant publishedAt,
            String publishedBy) {
        Publication publication() {
            return new Publication(
                    id,
                    flowId,
                    flowName,
                    environment,
                    revision,
                    Json.read(contracts, new TypeReference<>() {}),
                    Json.read(values, new TypeReference<>() {}),
                    note,
                    beforeId,
                    publishedAt,
                    publishedBy);
        }
    }

    /** The columns of {@link Row}. */
    String COLUMNS = "select p.id, p.flow_id, f.name, p.environment, p.revision, p.contracts::text,"
            + " p.named_values::text, p.note, p.before_id, p.published_at, p.published_by from publication p"
            + " join flow f on f.id = p.flow_id ";

    /** The newest lines are those that count. */
    String NEWEST = " p.id in (select max(id) from publication group by flow_id, environment) ";

    /** Returns the newest line of a flow in an environment, or null. */
    @Select(COLUMNS + "where p.flow_id = #{flow} and p.environment = #{environment} order by p.id desc limit 1")
    Row newest(@Param("flow") long flow, @Param("environment") String environment);

    /** Returns what is in force, by flow and environment; flow 0 means all. */
    @Select(COLUMNS + "where" + NEWEST + "and p.revision is not null and f.archived_at is null"
            + " and (#{flow} = 0 or p.flow_id = #{flow}) order by lower(f.name), p.environment")
    List<Row> inForce(@Param("flow") long flow);

    /** Returns a flow's lines, the newest first. */
    @Select(COLUMNS + "where p.flow_id = #{flow} order by p.id desc limit #{size} offset #{offset}")
    List<Row> history(@Param("flow") long flow, @Param("size") int size, @Param("offset") long offset);

    /** Returns how many lines a flow has. */
    @Select("select count(*) from publication where flow_id = #{flow}")
    long count(@Param("flow") long flow);

    /** Returns one line, or null. */
    @Select(COLUMNS + "where p.id = #{id}")
    Row byId(@Param("id") long id);

    /** Keeps others from publishing a flow until the transaction ends. */
    @Select("select id from flow where id = #{flow} for update")
    Long lock(@Param("flow") long flow);

    /** Adds a line and returns its id. */
    @Select(
            value = "insert into publication (flow_id, environment, revision, contracts, named_values, note, before_id,"
                    + " published_by) values (#{flow}, #{environment}, #{revision}, #{contracts}::jsonb,"
                    + " #{values}::jsonb, #{note}, #{before}, #{by}) returning id",
            affectData = true)
    long add(
            @Param("flow") long flow,
            @Param("environment") String environment,
            @Param("revision") Integer revision,
            @Param("contracts") String contracts,
            @Param("values") String values,
            @Param("note") String note,
            @Param("before") Long before,
            @Param("by") String by);
}
