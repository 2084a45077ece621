package wirekettle.server.settings;

import com.fasterxml.jackson.core.type.TypeReference;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.server.web.Json;

/** Endpoints. */
@Mapper
public interface SettingsMapper {
    /** An endpoint in one environment as it is stored; style and settings are JSON. */
    record EndpointRow(
            Long id,
            String name,
            String style,
            Long simulatorId,
            String environment,
            String address,
            String settings) {}

    /** Returns all endpoints as stored, or the one of a name. */
    @Select(
            """
            select e.id, e.name, e.style, e.simulator_id, w.environment, w.address, w.settings
            from endpoint e left join endpoint_environment w on w.endpoint_id = e.id
            where #{name}::text is null or e.name = #{name}
            order by lower(e.name), e.id
            """)
    List<EndpointRow> endpointRows(@Param("name") String name);

    /** Returns all endpoints. */
    default List<Endpoint> endpoints() {
        return collected(endpointRows(null));
    }

    /** Returns an endpoint by name, or null. */
    default Endpoint endpoint(String name) {
        return collected(endpointRows(name)).stream().findFirst().orElse(null);
    }

    private static List<Endpoint> collected(List<EndpointRow> rows) {
        List<Endpoint> found = new ArrayList<>();
        for (EndpointRow row : rows) {
            if (found.isEmpty() || !found.get(found.size() - 1).id().equals(row.id())) {
                MessageStyle style = Json.read(row.style(), new TypeReference<>() {});
                Map<String, Endpoint.Way> ways = new TreeMap<>();
                found.add(new Endpoint(row.id(), row.name(), style, ways, row.simulatorId()));
            }
            if (row.environment() != null) {
                EndpointSettings settings = Json.read(row.settings(), new TypeReference<>() {});
                found.get(found.size() - 1)
                        .environments()
                        .put(row.environment(), new Endpoint.Way(row.address(), settings));
            }
        }
        return found;
    }

    /** Adds an endpoint when there is none of that name. */
    @Insert("insert into endpoint (name) values (#{name}) on conflict do nothing")
    void add(@Param("name") String name);

    /** Sets an endpoint's address in an environment. */
    @Insert(
            """
            insert into endpoint_environment (endpoint_id, environment, address)
            select id, #{environment}, #{address} from endpoint where name = #{name}
            on conflict (endpoint_id, environment) do update set address = excluded.address
            """)
    void address(
            @Param("name") String name, @Param("environment") String environment, @Param("address") String address);

    /** Sets an endpoint's address in an environment; the endpoint is made when there is none. */
    default void save(String name, String environment, String address) {
        add(name);
        address(name, environment, address);
    }

    /** Sets what reaching an endpoint takes in an environment. */
    @Insert(
            """
            insert into endpoint_environment (endpoint_id, environment, settings)
            select id, #{environment}, #{settings}::jsonb from endpoint where name = #{name}
            on conflict (endpoint_id, environment) do update set settings = excluded.settings
            """)
    void settings(
            @Param("name") String name, @Param("environment") String environment, @Param("settings") String settings);

    /** Sets the simulator that answers for an endpoint. */
    @Update("update endpoint set simulator_id = #{simulator} where name = #{name}")
    void simulator(@Param("name") String name, @Param("simulator") Long simulator);

    /** Sets how messages are written for an endpoint. */
    @Update("update endpoint set style = #{style}::jsonb where name = #{name}")
    void style(@Param("name") String name, @Param("style") String style);

    /** Removes an endpoint. */
    @Delete("delete from endpoint where id = #{id}")
    void removeEndpoint(@Param("id") long id);
}
