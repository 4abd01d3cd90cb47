using System.Collections.Concurrent;
using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using System.Text;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;

namespace Chiton.Box;

/// <summary>A stand-in box on a loopback port. As at a cable, one is there at a time.</summary>
public sealed class BoxServer : IDisposable
{
    private readonly TcpListener listener;
    private readonly BoxBench bench;
    private readonly Func<int, IReadOnlyList<BoxBeat>>? run;
    private Task<IReadOnlyList<BoxBeat>> next;
    private readonly Action<string> show;
    private readonly Stopwatch watch = Stopwatch.StartNew();
    private readonly BlockingCollection<Action> asked = [];
    private readonly MemoryStream said = new();
    private TcpClient? desk;
    private bool pulled,
        typing;
    private bool disposed;

    /// <summary>Opens the port.</summary>
    /// <param name="make">What the box is made from.</param>
    /// <param name="port">The port; 0 for any that is free.</param>
    /// <param name="show">Told what somebody who looks on sees.</param>
    /// <exception cref="BoxTrouble">When something else listens there.</exception>
    public BoxServer(BoxMake make, int port, Action<string> show)
    {
        this.show = show;
        run = make.Run;
        next = Prepare(1);
        bench = new(make with { Run = run is null ? null : Next }, Say, show);
        // Nobody but this machine.
        listener = new(IPAddress.Loopback, port);
        try
        {
            listener.Start();
        }
        catch (SocketException e)
        {
            throw new BoxTrouble($"Port {port} cannot be opened: {e.Message}. Say another: --port {port + 1}.", e);
        }
    }

    // A run is worked out before it is asked for: while one works, a box would not answer, and its plug would be taken for out.
    private Task<IReadOnlyList<BoxBeat>> Prepare(int number) =>
        run is null ? Task.FromResult<IReadOnlyList<BoxBeat>>([]) : Task.Run(() => run(number));

    private IReadOnlyList<BoxBeat> Next(int number)
    {
        if (!next.IsCompleted)
            throw new InputProblem("run", "It is still being put down: try again in a moment.");
        var beats = next.GetAwaiter().GetResult();
        next = Prepare(number + 1);
        return beats;
    }

    /// <summary>Waits until it could start a run, or knows why not.</summary>
    public void Ready()
    {
        try
        {
            next.Wait();
        }
        catch (AggregateException e) when (e.InnerException is InputProblem)
        {
            // Whoever asks for a run is told.
        }
    }

    /// <summary>The port.</summary>
    public int Port => ((IPEndPoint)listener.LocalEndpoint).Port;

    /// <summary>Lines that it has said.</summary>
    public long Lines { get; private set; }

    private long Now => watch.ElapsedTicks * 1_000_000 / Stopwatch.Frequency;

    private void Say(BoxMessage message)
    {
        // What is typed here is answered here: the desk would take it for the answer to what it said.
        if (typing && message is BoxOk or BoxNo)
        {
            if (message is BoxNo no)
                show($"No. {no.Reason}");
            return;
        }
        if (desk is null)
            return;
        said.Write(Encoding.UTF8.GetBytes(message.ToString()));
        said.WriteByte((byte)'\n');
        Lines++;
    }

    private void Flush()
    {
        if (said.Length == 0)
            return;
        var bytes = said.GetBuffer().AsSpan(0, (int)said.Length);
        try
        {
            desk?.Client.Send(bytes);
        }
        catch (Exception e) when (e is SocketException or ObjectDisposedException)
        {
            // It is gone: its reader says so too.
            Gone(desk);
        }
        said.SetLength(0);
    }

    private void Gone(TcpClient? who)
    {
        if (who is null || who != desk)
            return;
        desk = null;
        said.SetLength(0);
        bench.Alone(Now);
        who.Dispose();
        show("Nobody is on the line.");
    }

    /// <summary>Does what a line of the keyboard says.</summary>
    /// <param name="line">pull, plug, start, stop, hold SENSOR over THING, fault NAME, every MICROS, or any line of the line.</param>
    public void Command(string line) =>
        Later(() =>
        {
            typing = true;
            try
            {
                Do(line.Trim());
            }
            finally
            {
                typing = false;
            }
        });

    private void Later(Action what)
    {
        if (!asked.IsAddingCompleted)
            asked.Add(what);
    }

    private void Do(string line)
    {
        var (word, rest) = line.IndexOf(' ', StringComparison.Ordinal) is > 0 and var at
            ? (line[..at], line[(at + 1)..].Trim())
            : (line, "");
        switch (word)
        {
            case "pull":
                pulled = true;
                Gone(desk);
                show("The plug is out.");
                break;
            case "plug":
                pulled = false;
                show("The plug is in.");
                break;
            case "fault" when BoxAsked.Fault(rest) is { } fault:
                bench.Fault = fault;
                show(fault == BoxFault.None ? "It does nothing wrong." : $"It does wrong: {rest}.");
                break;
            case "fault":
                show($"It can do wrong: {string.Join(", ", BoxAsked.Faults)}.");
                break;
            case "every" when long.TryParse(rest, out var micros) && micros > 0:
                bench.EveryMicros = micros;
                show($"It reads every {micros} µs.");
                break;
            case "every":
                show("Say after how many microseconds it reads, as every 100.");
                break;
            case "start" or "stop" or "hold":
                bench.Take(new BoxAsk(line), Now);
                break;
            case "":
                break;
            default:
                bench.Take(BoxLine.Read(line, bench.Names), Now);
                break;
        }
    }

    /// <summary>Answers until it is stopped.</summary>
    public void Run(CancellationToken stop)
    {
        _ = Task.Run(() => Accept(stop), CancellationToken.None);
        while (!stop.IsCancellationRequested)
        {
            bench.Until(Now);
            Flush();
            var wait = Math.Clamp((bench.NextMicros - Now) / 1000, 1, 50);
            try
            {
                if (asked.TryTake(out var what, (int)wait, stop))
                    do what();
                    while (asked.TryTake(out what));
            }
            catch (OperationCanceledException)
            {
                break;
            }
            Flush();
        }
        Gone(desk);
    }

    private async Task Accept(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested)
        {
            TcpClient client;
            try
            {
                client = await listener.AcceptTcpClientAsync(stop);
            }
            catch (Exception e) when (e is OperationCanceledException or SocketException or ObjectDisposedException)
            {
                return;
            }
            client.NoDelay = true;
            // One who does not listen must not hold up the box.
            client.SendTimeout = 2000;
            Later(() => Came(client, stop));
        }
    }

    private void Came(TcpClient client, CancellationToken stop)
    {
        if (pulled || desk is not null)
        {
            if (!pulled)
                try
                {
                    client.Client.Send("no Somebody is on this line already.\n"u8);
                }
                catch (SocketException)
                {
                    // It is gone already.
                }
            client.Dispose();
            return;
        }
        desk = client;
        show("Somebody is on the line.");
        bench.Hello();
        _ = Task.Run(() => Hear(client, stop), CancellationToken.None);
    }

    private async Task Hear(TcpClient client, CancellationToken stop)
    {
        var framing = new BoxFraming();
        var bytes = new byte[4096];
        try
        {
            var stream = client.GetStream();
            while (true)
            {
                var count = await stream.ReadAsync(bytes, stop);
                if (count == 0)
                    break;
                var messages = new List<BoxMessage>();
                framing.Take(bytes.AsSpan(0, count), bench.Names, messages.Add);
                Later(() =>
                {
                    if (desk == client)
                        foreach (var message in messages)
                            bench.Take(message, Now);
                });
            }
        }
        catch (Exception e) when (e is IOException or SocketException or ObjectDisposedException or OperationCanceledException)
        {
            // The plug came out.
        }
        Later(() => Gone(client));
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        if (disposed)
            return;
        disposed = true;
        asked.CompleteAdding();
        listener.Dispose();
        said.Dispose();
    }
}
