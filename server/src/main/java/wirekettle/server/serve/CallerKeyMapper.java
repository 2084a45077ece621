package wirekettle.server.serve;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.eclipse.microprofile.openapi.annotations.media.Schema;

/** Keys of callers. */
@Mapper
public interface CallerKeyMapper {
    /**
     * A key; its text is told once, when it is made.
     *
     * @param endsAt from when on it does not count any more, null for never
     * @param usedAt when it was used last, to the minute; null for never
     * @param aMinute how many requests a minute it is good for, null for any number
     */
    @Schema(
            name = "CallerKey",
            requiredProperties = {"id", "name", "madeBy", "madeAt"})
    record Key(Long id, String name, Instant endsAt, String madeBy, Instant madeAt, Instant usedAt, Integer aMinute) {}

    /** A key as callers are held against it. */
    record Known(Long id, String name, String hash, Instant endsAt, Integer aMinute) {}

    /** Returns the keys of a trigger. */
    @Select(
            "select id, name, ends_at, made_by, made_at, used_at, a_minute from caller_key where trigger_id = #{trigger}"
                    + " order by name")
    List<Key> of(@Param("trigger") long trigger);

    /** Returns what the callers of a trigger are held against. */
    @Select("select id, name, hash, ends_at, a_minute from caller_key where trigger_id = #{trigger}")
    List<Known> known(@Param("trigger") long trigger);

    /** Returns what a caller of a trigger is held against who shows a key, null for none. */
    @Select("select id, name, hash, ends_at, a_minute from caller_key where trigger_id = #{trigger}"
            + " and hash = #{hash}")
    Known shown(@Param("trigger") long trigger, @Param("hash") String hash);

    /** Adds a key; returns its id, null where there is one of the name. */
    @Select(
            value =
                    "insert into caller_key (trigger_id, name, hash, ends_at, a_minute, made_by)"
                            + " values (#{trigger}, #{name}, #{hash}, #{endsAt}, #{aMinute}, #{by}) on conflict do nothing returning id",
            affectData = true)
    Long add(
            @Param("trigger") long trigger,
            @Param("name") String name,
            @Param("hash") String hash,
            @Param("endsAt") Instant endsAt,
            @Param("aMinute") Integer aMinute,
            @Param("by") String by);

    /** Notes that a key was used. */
    @Update("update caller_key set used_at = now() where trigger_id = #{trigger} and name = #{name}")
    void used(@Param("trigger") long trigger, @Param("name") String name);

    /** Changes what a key is good for; returns how many were. */
    @Update(
            "update caller_key set ends_at = #{endsAt}, a_minute = #{aMinute} where id = #{id} and trigger_id = #{trigger}")
    int change(
            @Param("trigger") long trigger,
            @Param("id") long id,
            @Param("endsAt") Instant endsAt,
            @Param("aMinute") Integer aMinute);

    /** Removes a key of a trigger; returns how many were. */
    @Delete("delete from caller_key where id = #{id} and trigger_id = #{trigger}")
    int remove(@Param("trigger") long trigger, @Param("id") long id);
}
