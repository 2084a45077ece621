package wirekettle.server.datasets;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** Datasets; spec and findings are JSON. */
@Mapper
public interface DatasetMapper {
    /** A dataset as it is stored. */
    record Row(Long id, String name, String spec, Long rows, String findings, Long findingCount, Instant createdAt) {}

    /** Returns datasets whose name matches, by name. */
    @Select("select id, name, spec::text, rows, findings::text, finding_count, created_at from dataset"
            + " where name ilike #{like} order by lower(name) limit #{size} offset #{offset}")
    List<Row> page(@Param("like") String like, @Param("size") int size, @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from dataset where name ilike #{like}")
    long count(@Param("like") String like);

    /** Returns one dataset, or null. */
    @Select("select id, name, spec::text, rows, findings::text, finding_count, created_at from dataset"
            + " where id = #{id}")
    Row byId(@Param("id") long id);

    /** Returns one dataset by name, or null. */
    @Select("select id, name, spec::text, rows, findings::text, finding_count, created_at from dataset"
            + " where name = #{name}")
    Row byName(@Param("name") String name);

    /** Adds a dataset and returns its id, null when the name is taken. */
    @Select(
            value = "insert into dataset (name, spec, made_by) values (#{name}, #{spec}::jsonb, #{by})"
                    + " on conflict do nothing returning id",
            affectData = true)
    Long add(@Param("name") String name, @Param("spec") String spec, @Param("by") String by);

    /** Sets where a dataset is kept. */
    @Update("update dataset set spec = #{spec}::jsonb where id = #{id}")
    void spec(@Param("id") long id, @Param("spec") String spec);

    /** Returns all datasets in the order they were added. */
    @Select("select id, name, spec::text, rows, findings::text, finding_count, created_at from dataset order by id")
    List<Row> all();

    /** Returns who made one, null when there is no such thing. */
    @Select("select made_by from dataset where id = #{id}")
    String madeBy(@Param("id") long id);

    /** Keeps what was seen when looking at a dataset. */
    @Update("update dataset set spec = #{spec}::jsonb, rows = #{rows}, findings = #{findings}::jsonb,"
            + " finding_count = #{count} where id = #{id}")
    void update(
            @Param("id") long id,
            @Param("spec") String spec,
            @Param("rows") long rows,
            @Param("findings") String findings,
            @Param("count") long count);

    /** Removes a dataset. */
    @Delete("delete from dataset where id = #{id}")
    void remove(@Param("id") long id);
}
