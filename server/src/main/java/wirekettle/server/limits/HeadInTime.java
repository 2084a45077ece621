package wirekettle.server.limits;

import io.netty.buffer.ByteBuf;
import io.netty.channel.ChannelDuplexHandler;
import io.netty.channel.ChannelHandlerContext;
import io.netty.channel.ChannelPromise;
import io.netty.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;

/**
 * Ends a connection whose request's head is not complete some seconds after its first byte (HTTP/1.1, RFC 9112, 2.1).
 * Bytes that are encrypted are left alone: their head cannot be seen here.
 */
final class HeadInTime extends ChannelDuplexHandler {
    private static final byte[] END = {'\r', '\n', '\r', '\n'};
    private static final int TLS_HANDSHAKE = 22;

    private enum State {
        WAITING,
        HEAD,
        WORKING,
        ENCRYPTED
    }

    private final int seconds;
    private State state = State.WAITING;
    private int matched;
    private ScheduledFuture<?> late;

    HeadInTime(int seconds) {
        this.seconds = seconds;
    }

    @Override
    public void channelActive(ChannelHandlerContext context) throws Exception {
        // a connection that never says anything is no better than one that says half
        watch(context);
        super.channelActive(context);
    }

    private void watch(ChannelHandlerContext context) {
        late = context.executor().schedule(() -> context.close(), seconds, TimeUnit.SECONDS);
    }

    private void calm() {
        if (late != null) {
            late.cancel(false);
            late = null;
        }
    }

    @Override
    public void channelRead(ChannelHandlerContext context, Object message) throws Exception {
        if (message instanceof ByteBuf bytes && (state == State.WAITING || state == State.HEAD)) {
            if (state == State.WAITING && bytes.isReadable() && bytes.getByte(bytes.readerIndex()) == TLS_HANDSHAKE) {
                state = State.ENCRYPTED;
                calm();
            } else if (ends(bytes)) {
                state = State.WORKING;
                matched = 0;
                calm();
            } else {
                state = State.HEAD;
                if (late == null) {
                    watch(context);
                }
            }
        }
        super.channelRead(context, message);
    }

    private boolean ends(ByteBuf bytes) {
        for (int i = bytes.readerIndex(); i < bytes.writerIndex(); i++) {
            byte b = bytes.getByte(i);
            matched = b == END[matched] ? matched + 1 : b == END[0] ? 1 : 0;
            if (matched == END.length) {
                return true;
            }
        }
        return false;
    }

    @Override
    public void write(ChannelHandlerContext context, Object message, ChannelPromise promise) throws Exception {
        if (state == State.WORKING) {
            state = State.WAITING; // an answer: what comes next is a new head
        }
        super.write(context, message, promise);
    }

    @Override
    public void channelInactive(ChannelHandlerContext context) throws Exception {
        calm();
        super.channelInactive(context);
    }
}
