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

    /** Removes a secret. */
    @Delete("delete from secret where name = #{name}")
    void remove(@Param("name") String name);
}
