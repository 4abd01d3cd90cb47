using System.Threading.RateLimiting;

namespace Chiton.Server.App.Room;

/// <summary>How much may be asked for in a second. At the desk: generous for typing, tight enough that a runaway script does not starve a
/// class. In the room: each device for itself, so that one that runs away slows nobody else; what comes too fast waits its turn, and only
/// what comes much too fast is refused.</summary>
public static class SessionLimits
{
    /// <summary>Edits a second of a device.</summary>
    public const int Edits = 10;

    /// <summary>Edits of a device that wait for their turn.</summary>
    public const int Waiting = 40;

    /// <summary>Limits every request by who makes it.</summary>
    public static PartitionedRateLimiter<HttpContext> Limiter { get; } =
        PartitionedRateLimiter.Create<HttpContext, string>(context =>
        {
            var caller = context.RequestServices.GetRequiredService<Caller>();
            if (caller.Who == Who.Desk)
                return Bucket("desk", 4000, 2000, 0);
            if (caller.Session is null)
                return Bucket($"stranger {context.Connection.RemoteIpAddress}", 200, 20, 40);
            return HttpMethods.IsGet(context.Request.Method) || HttpMethods.IsHead(context.Request.Method)
                ? Bucket($"{caller.Key} reads", 300, 60, 100)
                : Bucket($"{caller.Key} edits", Edits, Edits, Waiting);
        });

    private static RateLimitPartition<string> Bucket(string who, int most, int aSecond, int waiting) =>
        RateLimitPartition.GetTokenBucketLimiter(
            who,
            _ =>
                new()
                {
                    TokenLimit = most,
                    TokensPerPeriod = Math.Max(1, aSecond / 10),
                    ReplenishmentPeriod = TimeSpan.FromMilliseconds(100),
                    QueueLimit = waiting,
                    QueueProcessingOrder = QueueProcessingOrder.OldestFirst,
                }
        );
}
