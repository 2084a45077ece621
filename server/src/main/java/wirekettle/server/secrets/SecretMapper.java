package wirekettle.server.secrets;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

/** Secrets as they are stored. */
@Mapper
public interface SecretMapper {
    /** A secret; sealed is encrypted. */
    record Row(
            String name,
            String kind,
            byte[] sealed,
            String owner,
            Instant validUntil,
            String changedBy,
            Instant changedAt) {}

    /** Returns all secrets by name. */
    @Select("select * from secret order by name")
    List<Row> all();

    /** Returns a secret, or null. */
    @Select("select * from secret where name = #{name}")
    Row byName(@Param("name") String name);

    /** Writes a secret, over the one of its name if there is one. */
    @Insert(
            """
            insert into secret (name, kind, sealed, owner, valid_until, changed_by)
            values (#{name}, #{kind}, #{sealed}, #{owner}, #{validUntil}, #{by})
            on conflict (name) do update set kind = excluded.kind, sealed = excluded.sealed, owner = excluded.owner,
                valid_until = excluded.valid_until, changed_by = excluded.changed_by, changed_at = now()
            """)
    void write(
            @Param("name") String name,
            @Param("kind") String kind,
            @Param("sealed") byte[] sealed,
            @Param("owner") String owner,
            @Param("validUntil") Instant validUntil,
            @Param("by") String by);

    /** Counts a change of a secret and returns the count. */
    @Select(value = "select nextval('secret_version')", affectData = true)
    long changed();

    /** Returns how many changes of secrets were counted. */
    @Select("select last_value from secret_version")
    long changes();

    /** A value that a secret has from a moment on. */
    record Next(String name, String owner, Instant validUntil, Instant from, String by) {}

    /** Returns the value a secret has from a moment on, or null. */
    @Select("select name, owner, valid_until, from_at, written_by from secret_next where name = #{name}")
    Next next(@Param("name") String name);

    /** Keeps the value a secret has from a moment on, in the place of one kept before. */
    @Insert("insert into secret_next (name, kind, sealed, owner, valid_until, from_at, written_by)"
            + " values (#{name}, #{kind}, #{sealed}, #{owner}, #{validUntil}, #{from}, #{by})"
            + " on conflict (name) do update set kind = excluded.kind, sealed = excluded.sealed,"
            + " owner = excluded.owner, valid_until = excluded.valid_until, from_at = excluded.from_at,"
            + " written_by = excluded.written_by")
    void writeNext(
            @Param("name") String name,
            @Param("kind") String kind,
            @Param("sealed") byte[] sealed,
            @Param("owner") String owner,
            @Param("validUntil") Instant validUntil,
            @Param("from") Instant from,
            @Param("by") String by);

    /** Forgets the value a secret was to have. */
    @Delete("delete from secret_next where name = #{name}")
    void forgetNext(@Param("name") String name);

    /** Gives secrets the values whose time has come; returns their names. */
    @Select(
            value =
                    "with due as (delete from secret_next where from_at <= #{now} returning *) update secret s"
                            + " set kind = d.kind, sealed = d.sealed, owner = d.owner, valid_until = d.valid_until,"
                            + " changed_by = d.written_by, changed_at = now() from due d where s.name = d.name returning s.name",
            affectData = true)
    List<String> takeDue(@Param("now") Instant now);

    /** Returns every value that waits, sealed, so that it is hidden before it counts. */
    @Select("select name, kind, sealed, owner, valid_until, written_by changed_by, from_at changed_at from secret_next")
    List<Row> waiting();

    /** Returns where a secret may be sent, as host:port. */
    @Select("select destination from secret_destination where secret = #{name} order by destination")
    List<String> destinations(@Param("name") String name);

    /** Allows a secret to be sent somewhere. */
    @Insert("insert into secret_destination (secret, destination) values (#{name}, #{destination})"
            + " on conflict do nothing")
    void allow(@Param("name") String name, @Param("destination") String destination);

    /** Allows a secret to be sent nowhere. */
    @Delete("delete from secret_destination where secret = #{name}")
    void allowNowhere(@Param("name") String name);

    /** Returns the flows with a fill that sends a secret. */
    @Select(
            """
            select f.name from flow f join flow_revision r on r.flow_id = f.id and r.revision = f.revision
            where f.archived_at is null
                and jsonb_path_exists(r.file::jsonb, '$.**.secret ? (@ == $name)', jsonb_build_object('name', #{name}::text))
            order by f.name
            """)
    List<String> flows(@Param("name") String name);

    /** Removes a secret. */
    @Delete("delete from secret where name = #{name}")
    void remove(@Param("name") String name);
}
