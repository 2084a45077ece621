package wirekettle.server.environments;

import com.fasterxml.jackson.core.type.TypeReference;
import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import wirekettle.server.web.Json;

/** Environments. */
@Mapper
public interface EnvironmentMapper {
    /** An environment as it is stored; values, datasets and secrets are JSON. */
    record Row(
            String name,
            String colour,
            Integer position,
            Boolean live,
            String values,
            String datasets,
            String secrets,
            Integer version,
            Instant changedAt,
            String changedBy) {
        Environment environment() {
            return new Environment(
                    name,
                    colour,
                    position,
                    live,
                    Json.read(values, new TypeReference<>() {}),
                    Json.read(datasets, new TypeReference<>() {}),
                    Json.read(secrets, new TypeReference<>() {}),
                    version,
                    changedAt,
                    changedBy);
        }
    }

    /** Returns all environments in their order. */
    @Select(
            "select name, colour, position, live, named_values::text, datasets::text, secrets::text, version, changed_at,"
                    + " changed_by from environment order by position, name")
    List<Row> all();

    /** Returns one environment, or null. */
    @Select(
            "select name, colour, position, live, named_values::text, datasets::text, secrets::text, version, changed_at,"
                    + " changed_by from environment where name = #{name}")
    Row byName(@Param("name") String name);

    /** Adds an environment. */
    @Insert(
            "insert into environment (name, colour, position, live, named_values, datasets, secrets, changed_by)"
                    + " values (#{name}, #{colour}, #{position}, #{live}, #{values}::jsonb, #{datasets}::jsonb, #{secrets}::jsonb, #{by})")
    void add(
            @Param("name") String name,
            @Param("colour") String colour,
            @Param("position") int position,
            @Param("live") boolean live,
            @Param("values") String values,
            @Param("datasets") String datasets,
            @Param("secrets") String secrets,
            @Param("by") String by);

    /** Changes an environment, only when nobody did so before; returns how many rows changed. */
    @Update("update environment set colour = #{colour}, position = #{position}, live = #{live},"
            + " named_values = #{values}::jsonb, datasets = #{datasets}::jsonb, secrets = #{secrets}::jsonb,"
            + " version = version + 1, changed_at = now(), changed_by = #{by}"
            + " where name = #{name} and version = #{version}")
    int change(
            @Param("name") String name,
            @Param("version") int version,
            @Param("colour") String colour,
            @Param("position") int position,
            @Param("live") boolean live,
            @Param("values") String values,
            @Param("datasets") String datasets,
            @Param("secrets") String secrets,
            @Param("by") String by);

    /** Removes an environment with the ways endpoints have there and the rights given for it. */
    @Delete("with ways as (delete from endpoint_environment where environment = #{name}), rights as (update person"
            + " set run_in = array_to_string(array_remove(string_to_array(run_in, ','), #{name}), ','))"
            + " delete from environment where name = #{name}")
    void remove(@Param("name") String name);

    /** Returns how many runs there are that have not ended, or can go on. */
    @Select("select count(*) from run where environment = #{name} and state in ('running', 'paused', 'interrupted')")
    long going(@Param("name") String name);
}
