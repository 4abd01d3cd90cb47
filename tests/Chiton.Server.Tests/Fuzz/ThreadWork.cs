using System.Diagnostics;
using System.Runtime.InteropServices;

namespace Chiton.Server.Tests.Fuzz;

/// <summary>How long the thread that asks has worked; waiting for a core does not count, where the system tells.</summary>
internal static class ThreadWork
{
    private const int ThreadCpuTime = 3;

    [StructLayout(LayoutKind.Sequential)]
    private struct TimeSpec
    {
        public nint Seconds;
        public nint Nanoseconds;
    }

    [DllImport("libc", EntryPoint = "clock_gettime")]
    private static extern int ClockGetTime(int clock, out TimeSpec time);

    /// <summary>Work done so far.</summary>
    public static TimeSpan Now =>
        OperatingSystem.IsLinux() && ClockGetTime(ThreadCpuTime, out var t) == 0
            ? TimeSpan.FromSeconds(t.Seconds) + TimeSpan.FromMicroseconds(t.Nanoseconds / 1000.0)
            : TimeSpan.FromSeconds(Stopwatch.GetTimestamp() / (double)Stopwatch.Frequency);

    /// <summary>Work done since.</summary>
    public static TimeSpan Since(TimeSpan begun) => Now - begun;
}

public class ThreadWorkTests
{
    [Fact]
    public void Waiting_is_no_work_and_working_is()
    {
        var begun = ThreadWork.Now;
        Thread.Sleep(300);
        if (OperatingSystem.IsLinux())
            Assert.True(ThreadWork.Since(begun) < TimeSpan.FromMilliseconds(150));
        begun = ThreadWork.Now;
        var watch = Stopwatch.StartNew();
        double sum = 0;
        for (var i = 0; i < 20_000_000; i++)
            sum += Math.Sqrt(i);
        Assert.True(sum > 0);
        Assert.InRange(ThreadWork.Since(begun), TimeSpan.FromMilliseconds(1), watch.Elapsed + TimeSpan.FromMilliseconds(20));
    }
}
