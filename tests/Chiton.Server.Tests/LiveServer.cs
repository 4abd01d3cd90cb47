using System.Diagnostics;
using System.Net.Sockets;

namespace Chiton.Server.Tests;

/// <summary>The server as a process of its own, as people start it.</summary>
public sealed class LiveServer : IDisposable
{
    private readonly string folder;
    private readonly int port = FreePort();
    private Process process;

    public LiveServer(string? folder = null)
    {
        this.folder = folder ?? Directory.CreateTempSubdirectory("chiton-live-").FullName;
        process = Start();
        Http = new() { BaseAddress = new($"http://127.0.0.1:{port}/"), Timeout = TimeSpan.FromMinutes(2) };
        Wait();
    }

    public HttpClient Http { get; }

    private static int FreePort()
    {
        using var socket = new TcpListener(IPAddress.Loopback, 0);
        socket.Start();
        return ((IPEndPoint)socket.LocalEndpoint).Port;
    }

    /// <summary>The port that it listens at.</summary>
    public int Port => port;

    private Process Start() => Launch(folder, port);

    /// <summary>Starts the server as a process on a folder, with its words to be read.</summary>
    public static Process Launch(string folder, int? port = null, bool read = false)
    {
        var info = new ProcessStartInfo(
            "dotnet",
            [Path.Combine(AppContext.BaseDirectory, "Chiton.Server.dll"), "--urls", $"http://127.0.0.1:{port ?? FreePort()}"]
        )
        {
            UseShellExecute = false,
            RedirectStandardError = read,
            RedirectStandardOutput = read,
        };
        info.Environment["CHITON_DATA"] = folder;
        info.Environment["CHITON_DEMO"] = "1";
        // The room of tests: it is of this machine alone, and it is not the desk.
        info.Environment["CHITON_LISTEN"] = "127.0.0.2";
        info.Environment["CHITON_HOSTS"] = "farm.test";
        info.Environment["Logging__LogLevel__Default"] = "Error";
        return Process.Start(info)!;
    }

    private void Wait()
    {
        for (var i = 0; ; i++)
        {
            try
            {
                using var answer = Http.Send(new(HttpMethod.Get, "api/health"));
                if (answer.IsSuccessStatusCode)
                    return;
            }
            catch (HttpRequestException) when (i < 900 && !process.HasExited)
            {
                // Not listening yet.
            }
            Thread.Sleep(100);
        }
    }

    /// <summary>Kills the process without a warning (SIGKILL).</summary>
    public void Kill()
    {
        process.Kill();
        process.WaitForExit();
    }

    /// <summary>Starts it again on the same folder and waits until it answers.</summary>
    public void StartAgain()
    {
        process = Start();
        Wait();
    }

    public void Dispose()
    {
        if (!process.HasExited)
            Kill();
        Http.Dispose();
        Directory.Delete(folder, true);
    }
}
