using System.Collections.Concurrent;
using System.Diagnostics;
using System.Text.Json;
using Chiton.Server.Parts;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;

// Servers for browser tests, one after the other in one process: what the first one had compiled, the next one need not compile again.
// Each is the server as people start it, with its own arguments, folder and port. Told what to do by lines on its standard input,
// `start ID ARGUMENTS` (a JSON array of words) and `stop ID`, it answers each by one line, `ID` or `ID TROUBLE`. It ends with its input.
var answers = Console.Out;

// What servers say of themselves is for people.
Console.SetOut(TextWriter.Null);

var running = new ConcurrentDictionary<string, (Task<IHost> Built, Task<int> Ended)>();
var built = new AsyncLocal<TaskCompletionSource<IHost>?>();
using var watch = DiagnosticListener.AllListeners.Subscribe(
    new Each<DiagnosticListener>(l =>
    {
        if (l.Name == "Microsoft.Extensions.Hosting")
            l.Subscribe(
                new Each<KeyValuePair<string, object?>>(e =>
                {
                    if (e is { Key: "HostBuilt", Value: IHost host })
                        built.Value?.TrySetResult(host);
                })
            );
    })
);

while (await Console.In.ReadLineAsync() is { } line)
{
    var words = line.Split(' ', 3);
    _ = Answer(words[1], () => words[0] == "start" ? Start(words[1], JsonSerializer.Deserialize<string[]>(words[2])!) : Stop(words[1]));
}
return 0;

async Task Answer(string id, Func<Task> work)
{
    string trouble;
    try
    {
        await Task.Run(work);
        trouble = "";
    }
    catch (Exception e)
    {
        trouble = " " + e.Message.ReplaceLineEndings(" ");
    }
    lock (answers)
    {
        answers.WriteLine(id + trouble);
        answers.Flush();
    }
}

async Task Start(string id, string[] arguments)
{
    var host = new TaskCompletionSource<IHost>(TaskCreationOptions.RunContinuationsAsynchronously);
    var ended = new TaskCompletionSource<int>(TaskCreationOptions.RunContinuationsAsynchronously);
    // The entry point waits for the end of the server, on the thread that calls it.
    new Thread(() =>
    {
        built.Value = host;
        try
        {
            ended.SetResult((int)typeof(RigEndpoints).Assembly.EntryPoint!.Invoke(null, [arguments])!);
        }
        catch (Exception e)
        {
            ended.SetException(e.InnerException ?? e);
        }
        host.TrySetException(new InvalidOperationException("The server ended before it was built."));
    })
    {
        IsBackground = true,
    }.Start();
    running[id] = (host.Task, ended.Task);
    var services = (await host.Task).Services;
    var started = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
    using var _ = services.GetRequiredService<IHostApplicationLifetime>().ApplicationStarted.Register(started.SetResult);
    if (await Task.WhenAny(started.Task, ended.Task) == ended.Task)
        throw new InvalidOperationException($"The server ended with {await ended.Task}.");
}

async Task Stop(string id)
{
    if (!running.TryRemove(id, out var server))
        throw new InvalidOperationException("No such server runs.");
    // As Ctrl+C does: whoever waits for its end goes on.
    (await server.Built)
        .Services.GetRequiredService<IHostApplicationLifetime>()
        .StopApplication();
    await server.Ended;
    // All that was written is in its one file, and nothing holds that.
    SqliteConnection.ClearAllPools();
}

/// <summary>Does something with each thing it is told of.</summary>
internal sealed class Each<T>(Action<T> work) : IObserver<T>
{
    public void OnNext(T value) => work(value);

    public void OnCompleted() { }

    public void OnError(Exception error) { }
}
