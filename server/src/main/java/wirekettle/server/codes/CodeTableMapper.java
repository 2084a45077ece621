package wirekettle.server.codes;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** Code tables; entries are JSON. */
@Mapper
public interface CodeTableMapper {
    /** A code table as it is stored. */
    record Row(
            Long id,
            String name,
            String otherwise,
            String entries,
            Integer version,
            Instant changedAt,
            String changedBy) {}

    /** Returns tables whose name matches. */
    @Select("select id, name, otherwise, entries::text, version, changed_at, changed_by from code_table"
            + " where name ilike #{like} order by ${order} limit #{size} offset #{offset}")
    List<Row> page(
            @Param("like") String like,
            @Param("order") String order,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from code_table where name ilike #{like}")
    long count(@Param("like") String like);

    /** Returns every table. */
    @Select("select id, name, otherwise, entries::text, version, changed_at, changed_by from code_table")
    List<Row> all();

    /** Returns one table, or null. */
    @Select("select id, name, otherwise, entries::text, version, changed_at, changed_by from code_table"
            + " where id = #{id}")
    Row byId(@Param("id") long id);

    /** Returns one table by name, or null. */
    @Select("select id, name, otherwise, entries::text, version, changed_at, changed_by from code_table"
            + " where name = #{name}")
    Row byName(@Param("name") String name);

    /** Adds a table and returns its id. */
    @Select(
            value = "insert into code_table (name, otherwise, entries, changed_by, made_by)"
                    + " values (#{name}, #{otherwise}, #{entries}::jsonb, #{by}, #{by}) returning id",
            affectData = true)
    long add(
            @Param("name") String name,
            @Param("otherwise") String otherwise,
            @Param("entries") String entries,
            @Param("by") String by);

    /** Changes a table, only when nobody did so before; returns how many rows changed. */
    @Update("update code_table set otherwise = #{otherwise}, entries = #{entries}::jsonb, version = version + 1,"
            + " changed_at = now(), changed_by = #{by} where id = #{id} and version = #{version}")
    int change(
            @Param("id") long id,
            @Param("version") int version,
            @Param("otherwise") String otherwise,
            @Param("entries") String entries,
            @Param("by") String by);

    /** Returns who made one, null when there is no such thing. */
    @Select("select made_by from code_table where id = #{id}")
    String madeBy(@Param("id") long id);

    /** Removes a table. */
    @Delete("delete from code_table where id = #{id}")
    void remove(@Param("id") long id);
}
