package wirekettle.server.limits;

import io.netty.channel.Channel;
import io.netty.channel.ChannelHandlerContext;
import io.netty.channel.ChannelInboundHandlerAdapter;
import io.netty.channel.SingleThreadEventLoop;
import io.netty.channel.socket.ServerSocketChannel;
import io.netty.util.concurrent.EventExecutor;
import io.quarkus.vertx.http.HttpServerStart;
import io.vertx.core.Vertx;
import io.vertx.core.impl.VertxInternal;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.ObservesAsync;
import jakarta.inject.Inject;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.util.Iterator;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import org.jboss.logging.Logger;

/**
 * Lets only so many connections in from one address, and ends those that do not finish the head of a request in time.
 * It stands where connections are accepted, so that what it refuses costs nothing.
 */
@ApplicationScoped
public class ConnectionGate {
    private static final Logger LOG = Logger.getLogger(ConnectionGate.class);

    @Inject
    Vertx vertx;

    @ConfigProperty(name = "wirekettle.connections-per-address")
    int perAddress;

    @ConfigProperty(name = "wirekettle.head-seconds")
    int headSeconds;

    private final Map<InetAddress, Integer> open = new ConcurrentHashMap<>();

    void started(@ObservesAsync HttpServerStart start) {
        for (EventExecutor each : ((VertxInternal) vertx).getAcceptorEventLoopGroup()) {
            if (each instanceof SingleThreadEventLoop loop) {
                loop.execute(() -> stand(loop.registeredChannelsIterator()));
            }
        }
    }

    private void stand(Iterator<Channel> channels) {
        while (channels.hasNext()) {
            if (channels.next() instanceof ServerSocketChannel server
                    && server.pipeline().get(Accepting.class) == null) {
                server.pipeline().addFirst(new Accepting());
            }
        }
    }

    private boolean enter(InetAddress address) {
        boolean[] entered = {false};
        open.compute(address, (key, count) -> {
            int now = count == null ? 0 : count;
            entered[0] = now < perAddress;
            return entered[0] ? (Integer) (now + 1) : count;
        });
        return entered[0];
    }

    private void leave(InetAddress address) {
        open.computeIfPresent(address, (key, count) -> count <= 1 ? null : count - 1);
    }

    private final class Accepting extends ChannelInboundHandlerAdapter {
        @Override
        public void channelRead(ChannelHandlerContext context, Object message) {
            if (!(message instanceof Channel child) || !(child.remoteAddress() instanceof InetSocketAddress from)) {
                context.fireChannelRead(message);
                return;
            }
            InetAddress address = from.getAddress();
            if (!enter(address)) {
                LOG.debugf("too many connections from %s", address.getHostAddress());
                child.unsafe().closeForcibly();
                return;
            }
            child.closeFuture().addListener(closed -> leave(address));
            child.pipeline().addFirst(new HeadInTime(headSeconds));
            context.fireChannelRead(message);
        }
    }
}
