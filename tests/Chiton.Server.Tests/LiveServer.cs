using System.Diagnostics;
using System.Net.Sockets;

namespace Chiton.Server.Tests;

/// <summary>The server as a process of its own, as people start it.</summary>
public sealed class LiveServer : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("chiton-live-").FullName;
    private readonly int port = FreePort();
    private Process process;

    public LiveServer()
    {
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

    private Process Start()
    {
        var info = new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "Chiton.Server.dll"), "--urls", $"http://127.0.0.1:{port}"]) { UseShellExecute = false };
        info.Environment["CHITON_DATA"] = folder;
        info.Environment["CHITON_DEMO"] = "1";
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
                if (answer.IsSuccessStatusCode) return;
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
        if (!process.HasExited) Kill();
        Http.Dispose();
        Directory.Delete(folder, true);
    }
}
