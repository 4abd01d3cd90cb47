using System.Diagnostics;
using System.Net.Sockets;
using System.Text;

namespace Chiton.Server.Tests.Lines;

/// <summary>A port of this machine behind which stands what a test wants.</summary>
public sealed class OnPort : IDisposable
{
    private readonly TcpListener listener = new(IPAddress.Loopback, 0);
    private readonly CancellationTokenSource stop = new();

    private OnPort(Func<NetworkStream, CancellationToken, Task> each)
    {
        listener.Start();
        _ = Task.Run(async () =>
        {
            while (!stop.IsCancellationRequested)
            {
                TcpClient client;
                try
                {
                    client = await listener.AcceptTcpClientAsync(stop.Token);
                }
                catch (Exception e) when (e is OperationCanceledException or SocketException or ObjectDisposedException)
                {
                    return;
                }
                client.NoDelay = true;
                Calls++;
                _ = Task.Run(async () =>
                {
                    using (client)
                        try
                        {
                            await each(client.GetStream(), stop.Token);
                        }
                        catch (Exception e) when (e is IOException or OperationCanceledException or ObjectDisposedException) { }
                });
            }
        });
    }

    /// <summary>How often somebody called.</summary>
    public int Calls { get; private set; }

    /// <summary>Its address.</summary>
    public string To => $"127.0.0.1:{((IPEndPoint)listener.LocalEndpoint).Port}";

    /// <summary>A program that talks on its own input and output, started anew for each who calls.</summary>
    public static OnPort Program(string folder, string command) =>
        new(
            async (stream, cancel) =>
            {
                using var program = Process.Start(
                    new ProcessStartInfo("sh", ["-c", $"exec {command}"])
                    {
                        WorkingDirectory = folder,
                        RedirectStandardInput = true,
                        RedirectStandardOutput = true,
                    }
                )!;
                try
                {
                    var there = program.StandardOutput.BaseStream.CopyToAsync(stream, cancel);
                    var back = Task.Run(
                        async () =>
                        {
                            var bytes = new byte[1000];
                            for (int n; (n = await stream.ReadAsync(bytes, cancel)) > 0; )
                            {
                                await program.StandardInput.BaseStream.WriteAsync(bytes.AsMemory(0, n), cancel);
                                await program.StandardInput.BaseStream.FlushAsync(cancel);
                            }
                        },
                        cancel
                    );
                    await Task.WhenAny(there, back);
                }
                finally
                {
                    program.Kill();
                }
            }
        );

    /// <summary>Somebody who answers lines as a test says.</summary>
    /// <param name="answer">Given the line and a way to say lines; false to hang up.</param>
    public static OnPort Answering(Func<string, Func<string, Task>, Task<bool>> answer) =>
        new(
            async (stream, cancel) =>
            {
                var gate = new SemaphoreSlim(1, 1);
                async Task Say(string lines)
                {
                    await gate.WaitAsync(cancel);
                    try
                    {
                        await stream.WriteAsync(Encoding.UTF8.GetBytes(lines), cancel);
                    }
                    finally
                    {
                        gate.Release();
                    }
                }
                using var reader = new StreamReader(stream, Encoding.UTF8);
                while (await reader.ReadLineAsync(cancel) is { } line)
                    if (!await answer(line, Say))
                        return;
            }
        );

    /// <summary>A board that says its hello to the question who is there, and to each other line what a test wants.</summary>
    /// <param name="hello">Its hello, with the answer after it.</param>
    /// <param name="answer">What it says to a line.</param>
    public static OnPort Board(string hello, Func<string, string> answer) =>
        Answering(
            async (line, say) =>
            {
                await say(line == "?" ? hello : answer(line));
                return true;
            }
        );

    /// <inheritdoc/>
    public void Dispose()
    {
        stop.Cancel();
        listener.Dispose();
        stop.Dispose();
    }
}
