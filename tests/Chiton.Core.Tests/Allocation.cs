namespace Chiton.Core.Tests;

/// <summary>What a piece of work allocates on its own thread.</summary>
internal static class Allocation
{
    /// <summary>
    /// The least number of bytes that <paramref name="work"/> took in five goes. The runtime itself now and then allocates
    /// on the thread that happens to run (a method compiled anew, a collection that another test began); work that allocates
    /// does so every time.
    /// </summary>
    public static long Least(Action work) =>
        Enumerable
            .Range(0, 5)
            .Select(_ =>
            {
                var before = GC.GetAllocatedBytesForCurrentThread();
                work();
                return GC.GetAllocatedBytesForCurrentThread() - before;
            })
            .Min();
}
