package wirekettle.server.flows;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** Flows and their immutable revisions. */
@Mapper
public interface FlowMapper {
    /** A flow. */
    record Row(Long id, String name, Integer revision, Instant changedAt, String changedBy) {}

    /** A flow with its file as it is now. */
    record FileRow(Long id, String name, Integer revision, String file) {}

    /** Returns every flow with its file. */
    @Select(
            "select f.id, f.name, f.revision, r.file from flow f"
                    + " join flow_revision r on r.flow_id = f.id and r.revision = f.revision where f.archived_at is null order by lower(f.name)")
    List<FileRow> files();

    /** Returns flows whose name matches, the last changed first. */
    @Select(
            "select id, name, revision, changed_at, changed_by from flow where name ilike #{like} and archived_at is null"
                    + " order by ${order} limit #{size} offset #{offset}")
    List<Row> page(
            @Param("like") String like,
            @Param("order") String order,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from flow where name ilike #{like} and archived_at is null")
    long count(@Param("like") String like);

    /** Returns one flow, or null. */
    @Select("select id, name, revision, changed_at, changed_by from flow where id = #{id} and archived_at is null")
    Row byId(@Param("id") long id);

    /** Returns one flow by name, or null. */
    @Select("select id, name, revision, changed_at, changed_by from flow where name = #{name} and archived_at is null")
    Row byName(@Param("name") String name);

    /** Adds a flow at revision 1 and returns its id. */
    @Select(
            value =
                    "insert into flow (name, revision, changed_by, made_by) values (#{name}, 1, #{by}, #{by}) returning id",
            affectData = true)
    long add(@Param("name") String name, @Param("by") String by);

    /** Keeps a revision's file. */
    @Insert("insert into flow_revision (flow_id, revision, file, saved_by)"
            + " values (#{id}, #{revision}, #{file}, #{by})")
    void keep(
            @Param("id") long id, @Param("revision") int revision, @Param("file") String file, @Param("by") String by);

    /** Moves a flow to the next revision, only when nobody did so before; returns how many rows changed. */
    @Update("update flow set revision = revision + 1, name = #{name}, changed_at = now(), changed_by = #{by}"
            + " where id = #{id} and revision = #{revision}")
    int advance(
            @Param("id") long id, @Param("revision") int revision, @Param("name") String name, @Param("by") String by);

    /** Returns the file of a revision, or null. */
    @Select("select file from flow_revision where flow_id = #{id} and revision = #{revision}")
    String file(@Param("id") long id, @Param("revision") int revision);

    /** Returns who made a flow, null when there is no such flow. */
    @Select("select made_by from flow where id = #{id} and archived_at is null")
    String madeBy(@Param("id") long id);

    /** Takes a flow out of the lists; its revisions and the ledgers of its runs stay, its name is free again. */
    @Update("update flow set archived_at = now() where id = #{id} and archived_at is null")
    void archive(@Param("id") long id);

    /** Removes a flow that never ran. */
    @Delete("delete from flow where id = #{id} and not exists (select 1 from run where flow_id = #{id})")
    int remove(@Param("id") long id);
}
