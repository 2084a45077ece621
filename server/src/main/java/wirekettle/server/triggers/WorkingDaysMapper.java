package wirekettle.server.triggers;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** Working days by name. */
@Mapper
public interface WorkingDaysMapper {
    /** Working days as they are stored; the days off are JSON, the times as 07:30. */
    record Row(
            Long id,
            String name,
            String weekdaysOff,
            String datesOff,
            String opens,
            String cutOff,
            Integer version,
            Instant changedAt,
            String changedBy,
            String madeBy) {}

    /** The columns of {@link Row}. */
    String COLUMNS = "select id, name, weekdays_off::text, dates_off::text, to_char(opens, 'HH24:MI') opens_at,"
            + " to_char(cut_off, 'HH24:MI') cut_off_at, version, changed_at, changed_by, made_by from working_days ";

    /** Returns those whose name matches. */
    @Select(COLUMNS + "where name ilike #{like} order by ${order} limit #{size} offset #{offset}")
    List<Row> page(
            @Param("like") String like,
            @Param("order") String order,
            @Param("size") int size,
            @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from working_days where name ilike #{like}")
    long count(@Param("like") String like);

    /** Returns one, or null. */
    @Select(COLUMNS + "where id = #{id}")
    Row byId(@Param("id") long id);

    /** Returns one by name, or null. */
    @Select(COLUMNS + "where name = #{name}")
    Row byName(@Param("name") String name);

    /** Adds working days and returns their id. */
    @Select(
            value = "insert into working_days (name, weekdays_off, dates_off, opens, cut_off, changed_by, made_by)"
                    + " values (#{name}, #{weekdaysOff}::jsonb, #{datesOff}::jsonb, #{opens}::time, #{cutOff}::time,"
                    + " #{by}, #{by}) returning id",
            affectData = true)
    long add(
            @Param("name") String name,
            @Param("weekdaysOff") String weekdaysOff,
            @Param("datesOff") String datesOff,
            @Param("opens") String opens,
            @Param("cutOff") String cutOff,
            @Param("by") String by);

    /** Changes working days, only when nobody did so before; returns how many rows changed. */
    @Update("update working_days set weekdays_off = #{weekdaysOff}::jsonb, dates_off = #{datesOff}::jsonb,"
            + " opens = #{opens}::time, cut_off = #{cutOff}::time, version = version + 1, changed_at = now(),"
            + " changed_by = #{by} where id = #{id} and version = #{version}")
    int change(
            @Param("id") long id,
            @Param("version") int version,
            @Param("weekdaysOff") String weekdaysOff,
            @Param("datesOff") String datesOff,
            @Param("opens") String opens,
            @Param("cutOff") String cutOff,
            @Param("by") String by);

    /** Removes working days. */
    @Delete("delete from working_days where id = #{id}")
    void remove(@Param("id") long id);

    /** Returns how many triggers keep to working days. */
    @Select("select count(*) from flow_trigger where spec->>'days' = #{name}")
    long used(@Param("name") String name);
}
