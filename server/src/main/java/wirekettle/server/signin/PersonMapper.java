package wirekettle.server.signin;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** People and their sessions. */
@Mapper
public interface PersonMapper {
    /** Returns all people by name. */
    @Select("select id, name, may_allow_hosts, locked_until from person order by name")
    List<Person> all();

    /** Returns one person by name, or null. */
    @Select("select id, name, may_allow_hosts, locked_until from person where name = #{name}")
    Person byName(@Param("name") String name);

    /** Returns the password hash, or null. */
    @Select("select password_hash from person where id = #{id}")
    String hash(@Param("id") long id);

    /** Adds a person. */
    @Insert("insert into person (name, password_hash, may_allow_hosts) values (#{name}, #{hash}, #{may})")
    void add(@Param("name") String name, @Param("hash") String hash, @Param("may") boolean may);

    /** Sets a new password and lifts a lock. */
    @Update("update person set password_hash = #{hash}, failed_attempts = 0, locked_until = null where id = #{id}")
    void password(@Param("id") long id, @Param("hash") String hash);

    /** Counts a failed attempt; the fifth in a row locks for fifteen minutes. */
    @Update(
            """
            update person set failed_attempts = failed_attempts + 1,
                locked_until = case when failed_attempts + 1 >= 5 then now() + interval '15 minutes' end
            where id = #{id}
            """)
    void failed(@Param("id") long id);

    /** Forgets failed attempts. */
    @Update("update person set failed_attempts = 0, locked_until = null where id = #{id}")
    void succeeded(@Param("id") long id);

    /** Removes a person with all sessions. */
    @Delete("delete from person where id = #{id}")
    void remove(@Param("id") long id);

    /** Starts a session of twelve hours. */
    @Insert("insert into session (token_hash, person_id, expires_at)"
            + " values (#{token}, #{person}, now() + interval '12 hours')")
    void open(@Param("token") String tokenHash, @Param("person") long person);

    /** Returns who a session belongs to, or null. */
    @Select(
            """
            select p.id, p.name, p.may_allow_hosts, p.locked_until
            from session s join person p on p.id = s.person_id
            where s.token_hash = #{token} and s.expires_at > now()
            """)
    Person ofSession(@Param("token") String tokenHash);

    /** Ends a session. */
    @Delete("delete from session where token_hash = #{token} or expires_at < now()")
    void close(@Param("token") String tokenHash);
}
