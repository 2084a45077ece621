package wirekettle.server.signin;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** People, their sessions, and their wrong sign-ins. */
@Mapper
public interface PersonMapper {
    /** A person as stored; the environments are separated by commas. */
    record Row(Long id, String name, Boolean build, Boolean manage, String runIn) {
        Person person() {
            return new Person(id, name, build, manage, runIn.isEmpty() ? List.of() : List.of(runIn.split(",")));
        }
    }

    /** Returns people whose name matches, by name. */
    @Select("select id, name, build, manage, run_in from person where name ilike #{like}"
            + " order by lower(name), id limit #{size} offset #{offset}")
    List<Row> page(@Param("like") String like, @Param("size") int size, @Param("offset") long offset);

    /** Returns how many match. */
    @Select("select count(*) from person where name ilike #{like}")
    long count(@Param("like") String like);

    /** Returns how many people may manage. */
    @Select("select count(*) from person where manage")
    long managers();

    /** Returns one person by name, or null. */
    @Select("select id, name, build, manage, run_in from person where name = #{name}")
    Row byName(@Param("name") String name);

    /** Returns one person, or null. */
    @Select("select id, name, build, manage, run_in from person where id = #{id}")
    Row byId(@Param("id") long id);

    /** Returns the password hash, or null. */
    @Select("select password_hash from person where id = #{id}")
    String hash(@Param("id") long id);

    /** Adds a person. */
    @Insert("insert into person (name, password_hash, build, manage, run_in)"
            + " values (#{name}, #{hash}, #{build}, #{manage}, #{runIn})")
    void add(
            @Param("name") String name,
            @Param("hash") String hash,
            @Param("build") boolean build,
            @Param("manage") boolean manage,
            @Param("runIn") String runIn);

    /** Sets what a person may do. */
    @Update("update person set build = #{build}, manage = #{manage}, run_in = #{runIn} where id = #{id}")
    void rights(
            @Param("id") long id,
            @Param("build") boolean build,
            @Param("manage") boolean manage,
            @Param("runIn") String runIn);

    /** Sets a new password. */
    @Update("update person set password_hash = #{hash} where id = #{id}")
    void password(@Param("id") long id, @Param("hash") String hash);

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
            select p.id, p.name, p.build, p.manage, p.run_in
            from session s join person p on p.id = s.person_id
            where s.token_hash = #{token} and s.expires_at > now()
            """)
    Row ofSession(@Param("token") String tokenHash);

    /** Ends a session, and those that are over. */
    @Delete("delete from session where token_hash = #{token} or expires_at < now()")
    void close(@Param("token") String tokenHash);

    /** Ends all sessions of a person. */
    @Delete("delete from session where person_id = #{person}")
    void closeAll(@Param("person") long person);

    /** Returns until when a name's sign-ins from an address wait, null when they do not. */
    @Select("select wait_until from sign_in_failure where name = #{name} and address = #{address}")
    Instant waitUntil(@Param("name") String name, @Param("address") String address);

    /** Counts a wrong sign-in: from the third on the next one waits a second, then twice as long, up to 15 minutes. */
    @Insert(
            """
            insert into sign_in_failure (name, address, failures, wait_until) values (#{name}, #{address}, 1, now())
            on conflict (name, address) do update set failures = sign_in_failure.failures + 1,
                wait_until = now() + least(900, case when sign_in_failure.failures < 2 then 0
                    else power(2, least(sign_in_failure.failures - 2, 12)) end) * interval '1 second'
            """)
    void failed(@Param("name") String name, @Param("address") String address);

    /** Forgets the wrong sign-ins of a name from an address, and all that are a day old. */
    @Delete("delete from sign_in_failure where name = #{name} and address = #{address}"
            + " or wait_until < now() - interval '1 day'")
    void succeeded(@Param("name") String name, @Param("address") String address);

    /** Forgets all wrong sign-ins of a name. */
    @Delete("delete from sign_in_failure where name = #{name}")
    void forgive(@Param("name") String name);
}
