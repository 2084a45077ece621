package wirekettle.server.settings;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

/** Allowed hosts and endpoints. */
@Mapper
public interface SettingsMapper {
    /** Returns all allowed hosts. */
    @Select("select host, allowed_by, allowed_at from allowed_host order by host")
    List<AllowedHost> hosts();

    /** Allows a host. */
    @Insert("insert into allowed_host (host, allowed_by) values (#{host}, #{by}) on conflict do nothing")
    void allow(@Param("host") String host, @Param("by") String by);

    /** Allows a host no longer. */
    @Delete("delete from allowed_host where host = #{host}")
    void disallow(@Param("host") String host);

    /** An endpoint as it is stored; style is JSON. */
    record EndpointRow(Long id, String name, String testAddress, String liveAddress, String style) {}

    /** Returns all endpoints as stored. */
    @Select("select id, name, test_address, live_address, style from endpoint order by name")
    List<EndpointRow> endpointRows();

    /** Returns an endpoint by name as stored, or null. */
    @Select("select id, name, test_address, live_address, style from endpoint where name = #{name}")
    EndpointRow endpointRow(@Param("name") String name);

    /** Returns all endpoints. */
    default List<Endpoint> endpoints() {
        return endpointRows().stream().map(Endpoint::of).toList();
    }

    /** Returns an endpoint by name, or null. */
    default Endpoint endpoint(String name) {
        return Endpoint.of(endpointRow(name));
    }

    /** Adds or changes an endpoint's addresses. */
    @Insert(
            """
            insert into endpoint (name, test_address, live_address) values (#{name}, #{test}, #{live})
            on conflict (name) do update set test_address = excluded.test_address, live_address = excluded.live_address
            """)
    void save(@Param("name") String name, @Param("test") String test, @Param("live") String live);

    /** Sets how messages are written for an endpoint. */
    @Update("update endpoint set style = #{style}::jsonb where name = #{name}")
    void style(@Param("name") String name, @Param("style") String style);

    /** Removes an endpoint. */
    @Delete("delete from endpoint where id = #{id}")
    void removeEndpoint(@Param("id") long id);
}
