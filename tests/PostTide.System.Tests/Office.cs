using System.Diagnostics;
using System.Net;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text.Json;
using System.Text.Json.Nodes;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;
using Npgsql;
using PostTide.Peers;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>
/// A whole office: a database of its own on a real PostgreSQL, the server and the stand-ins as processes, and a person
/// signed in. Nothing is replaced or shortened.
/// </summary>
public sealed class Office : IAsyncDisposable, IAsyncLifetime
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(180);
    private readonly string _folder = Directory.CreateTempSubdirectory("posttide-test-").FullName;
    private readonly int _web = Ports.Free();
    private readonly int _stand = Ports.Free();
    private readonly int _host = Ports.Free();
    private readonly string _database = $"test_{Guid.NewGuid():N}";
    private Process? _server;
    private Process? _standIns;

    public int SmtpPort { get; } = Ports.Free();

    /// <summary>The port of the practice mail server's IMAP side.</summary>
    public int ImapPort { get; } = Ports.Free();

    /// <summary>Another PostgreSQL than the shared one, for tests that stop it.</summary>
    public string? OwnServer { get; init; }

    private string PostgreSql => OwnServer ?? Server;

    /// <summary>The person signed in; may do everything.</summary>
    public HttpClient Http { get; private set; } = null!;

    public string Address => $"http://127.0.0.1:{_web}";

    public HttpClient StandIns { get; private set; } = null!;

    /// <summary>The root of the repository.</summary>
    public static string Root { get; } = FindRoot();

    private static string Server => Environment.GetEnvironmentVariable("POSTTIDE_TEST_POSTGRES")
        ?? throw new InvalidOperationException("POSTTIDE_TEST_POSTGRES names no PostgreSQL. ./posttide test starts one and sets it.");

    public string Connection => $"{PostgreSql};Database={_database}";

    public async ValueTask InitializeAsync()
    {
        await RunSqlAsync($"{PostgreSql};Database=postgres", $"CREATE DATABASE {_database}");
        using (var load = Start("Cli", "demo load --messages 0"))
        {
            await load.WaitForExitAsync();
            if (load.ExitCode != 0)
            {
                throw new InvalidOperationException("The office could not be set up.");
            }
        }

        _standIns = Start("StandIns");
        StandIns = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{_stand}") };
        await StartServerAsync();
        Http = await SignInAsync("nell@saltmarrow.example");
        await EventuallyAsync(async () => (await StandIns.GetAsync("/mail")).IsSuccessStatusCode);
    }

    public async ValueTask DisposeAsync()
    {
        await KillServerAsync();
        _standIns?.Kill();
        Http?.Dispose();
        StandIns?.Dispose();
        NpgsqlConnection.ClearAllPools();
        await RunSqlAsync($"{PostgreSql};Database=postgres", $"DROP DATABASE IF EXISTS {_database} WITH (FORCE)");
        Directory.Delete(_folder, recursive: true);
    }

    /// <summary>Starts the server, and waits until it answers and takes mail.</summary>
    public async Task StartServerAsync()
    {
        _server = Start("Server");
        using var http = new HttpClient { BaseAddress = new Uri(Address) };
        await EventuallyAsync(async () => !_server.HasExited
            ? (await http.GetAsync("/api/me")).IsSuccessStatusCode
            : throw new InvalidOperationException($"The server stopped by itself with {_server.ExitCode}."));
        await EventuallyAsync(async () =>
        {
            using var client = new TcpClient();
            await client.ConnectAsync(IPAddress.Loopback, SmtpPort);
            return true;
        });
    }

    /// <summary>Kills the server with SIGKILL: it gets no chance to finish anything.</summary>
    public async Task KillServerAsync()
    {
        if (_server is { HasExited: false })
        {
            _server.Kill();
            await _server.WaitForExitAsync();
        }
    }

    public async Task<HttpClient> SignInAsync(string email, string password = "saltmarrow-demo")
    {
        var http = new HttpClient(new HttpClientHandler { CookieContainer = new CookieContainer() }) { BaseAddress = new Uri(Address) };
        await RenewTokenAsync(http);
        (await http.PostAsJsonAsync("/api/sign-in", new { email, password })).EnsureSuccessStatusCode();
        await RenewTokenAsync(http);
        return http;
    }

    public static async Task RenewTokenAsync(HttpClient http)
    {
        var me = await http.GetFromJsonAsync<JsonNode>("/api/me");
        http.DefaultRequestHeaders.Remove("X-Request-Token");
        http.DefaultRequestHeaders.Add("X-Request-Token", me!["requestToken"]!.GetValue<string>());
    }

    public async Task<JsonNode> GetAsync(string path) => (await Http.GetFromJsonAsync<JsonNode>(path))!;

    public async Task<JsonNode?> PostAsync(string path, object? body = null)
    {
        using var answer = await Http.PostAsJsonAsync(path, body ?? new { });
        var text = await answer.Content.ReadAsStringAsync();
        if (!answer.IsSuccessStatusCode)
        {
            throw new HttpRequestException($"{path} answered {(int)answer.StatusCode}: {text}", null, answer.StatusCode);
        }

        return text.Length == 0 ? null : JsonNode.Parse(text);
    }

    /// <summary>A mailbox as Setup sends it; a connection and approved senders are added where a test needs them.</summary>
    public static JsonObject Mailbox(string name, string address) => JsonNode.Parse(
        $$"""{"id":0,"name":"{{name}}","addresses":[{"address":"{{address}}","name":""}],"connection":null,"approval":null,"health":null}""")!.AsObject();

    /// <summary>Saves a mailbox and gives its id.</summary>
    public async Task<long> SaveMailboxAsync(JsonObject mailbox, long id = 0)
    {
        using var answer = await Http.PutAsJsonAsync($"/api/setup/mailboxes/{id}", mailbox);
        var text = await answer.Content.ReadAsStringAsync();
        return answer.IsSuccessStatusCode ? JsonNode.Parse(text)!.GetValue<long>() : throw new HttpRequestException($"Saving the mailbox answered {(int)answer.StatusCode}: {text}");
    }

    /// <summary>Brings in a file by the tus protocol, and waits until all of it is dealt with.</summary>
    public async Task<JsonNode> UploadAsync(string name, byte[] bytes, bool carryOut, long? mailboxId = null)
    {
        var id = await BeginUploadAsync(name, bytes.Length, carryOut, mailboxId);
        if (bytes.Length > 0)
        {
            (await AppendAsync(id, 0, bytes)).EnsureSuccessStatusCode();
        }

        return await UploadedAsync(id);
    }

    /// <summary>tus creation.</summary>
    public async Task<string> BeginUploadAsync(string name, long length, bool carryOut, long? mailboxId = null)
    {
        static string Base64(string text) => Convert.ToBase64String(global::System.Text.Encoding.UTF8.GetBytes(text));
        var mailbox = mailboxId ?? (await GetAsync("/api/setup"))["mailboxes"]![0]!["id"]!.GetValue<long>();
        using var request = new HttpRequestMessage(HttpMethod.Post, "/api/uploads");
        request.Headers.Add("Tus-Resumable", "1.0.0");
        request.Headers.Add("Upload-Length", length.ToString(global::System.Globalization.CultureInfo.InvariantCulture));
        request.Headers.Add("Upload-Metadata", $"filename {Base64(name)},mailboxId {Base64($"{mailbox}")},carryOut {Base64(carryOut ? "true" : "false")}");
        using var answer = await Http.SendAsync(request);
        answer.EnsureSuccessStatusCode();
        return answer.Headers.Location!.OriginalString.Split('/')[^1];
    }

    /// <summary>tus: some bytes at their place.</summary>
    public async Task<HttpResponseMessage> AppendAsync(string id, long offset, byte[] bytes)
    {
        using var request = new HttpRequestMessage(HttpMethod.Patch, $"/api/uploads/{id}") { Content = new ByteArrayContent(bytes) };
        request.Headers.Add("Tus-Resumable", "1.0.0");
        request.Headers.Add("Upload-Offset", offset.ToString(global::System.Globalization.CultureInfo.InvariantCulture));
        request.Content.Headers.ContentType = new("application/offset+octet-stream");
        return await Http.SendAsync(request);
    }

    public async Task<JsonNode> UploadedAsync(string id)
    {
        JsonNode? progress = null;
        await EventuallyAsync(async () => (progress = await GetAsync($"/api/uploads/{id}"))["state"]!.GetValue<string>() is "Finished" or "Failed" or "Stopped");
        return progress!;
    }

    /// <summary>Hands a message to Post Tide over SMTP.</summary>
    public async Task SendAsync(MimeMessage message, string to = "berths@saltmarrow.example")
    {
        using var client = new SmtpClient();
        await client.ConnectAsync("127.0.0.1", SmtpPort, SecureSocketOptions.None);
        await client.SendAsync(message, MailboxAddress.Parse(message.From.Mailboxes.First().Address), [MailboxAddress.Parse(to)]);
        await client.DisconnectAsync(quit: true);
    }

    /// <summary>A message from somebody who has not written before, unless it is said from whom.</summary>
    public static MimeMessage Mail(string subject, string text, string? from = null, string to = "berths@saltmarrow.example")
    {
        var message = new MimeMessage();
        message.From.Add(MailboxAddress.Parse(from ?? $"Ada Tester <ada-{Guid.NewGuid():N}@tester.example>"));
        message.To.Add(MailboxAddress.Parse(to));
        message.Subject = subject;
        message.Body = new TextPart("plain") { Text = text };
        return message;
    }

    /// <summary>Waits until a message with this subject is planned, and gives everything about it.</summary>
    public async Task<JsonNode> PlannedAsync(string subject)
    {
        JsonNode? found = null;
        await EventuallyAsync(async () =>
        {
            var page = await GetAsync($"/api/messages?text={Uri.EscapeDataString($"\"{subject}\"")}");
            found = page["messages"]!.AsArray().FirstOrDefault(m => m!["subject"]!.GetValue<string>() == subject && m["state"]!.GetValue<string>() != "Arrived");
            return found is not null;
        });
        return await GetAsync($"/api/messages/{found!["id"]}");
    }

    /// <summary>A count straight from the records.</summary>
    public async Task<long> CountAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(Connection);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        return Convert.ToInt64(await command.ExecuteScalarAsync(), global::System.Globalization.CultureInfo.InvariantCulture);
    }

    /// <summary>Waits, patiently, until something is so. The machine may be starved; only the patience is bounded.</summary>
    public static async Task EventuallyAsync(Func<Task<bool>> so)
    {
        var end = DateTime.UtcNow + Patience;
        while (true)
        {
            try
            {
                if (await so())
                {
                    return;
                }
            }
            catch (Exception e) when (e is HttpRequestException or SocketException or JsonException && DateTime.UtcNow < end)
            {
                // Not yet.
            }

            if (DateTime.UtcNow > end)
            {
                throw new TimeoutException("What was waited for did not happen.");
            }

            await Task.Delay(100);
        }
    }

    /// <summary>Changes the records behind the office's back.</summary>
    public Task RunAsync(string sql) => RunSqlAsync(Connection, sql);

    private static async Task RunSqlAsync(string connectionString, string sql)
    {
        await using var connection = new NpgsqlConnection(connectionString);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    /// <summary>Where a program was built, in the same configuration as these tests.</summary>
    public static string ProgramOf(string project)
    {
        var configuration = AppContext.BaseDirectory.Contains("/Release/", StringComparison.Ordinal) ? "Release" : "Debug";
        return Path.Combine(Root, "src", $"PostTide.{project}", "bin", configuration, "net10.0", $"PostTide.{project}.dll");
    }

    private Process Start(string project, string arguments = "")
    {
        var start = new ProcessStartInfo("dotnet", $"\"{ProgramOf(project)}\" {arguments}") { WorkingDirectory = _folder, RedirectStandardOutput = true };
        var environment = new Dictionary<string, string>
        {
            ["PostTide__Database"] = Connection,
            ["PostTide__DataFolder"] = Path.Combine(_folder, "data"),
            ["PostTide__OfficeName"] = "Saltmarrow Harbour Office",
            ["PostTide__TicketPrefix"] = "SH",
            ["PostTide__SmtpPort"] = SmtpPort.ToString(global::System.Globalization.CultureInfo.InvariantCulture),
            ["PostTide__MailHostPort"] = _host.ToString(global::System.Globalization.CultureInfo.InvariantCulture),
            ["PostTide__PracticeAddress"] = $"http://127.0.0.1:{_stand}",
            ["StandIns__SmtpPort"] = _host.ToString(global::System.Globalization.CultureInfo.InvariantCulture),
            ["StandIns__TrickleSeconds"] = "0",
            ["StandIns__ImapPort"] = ImapPort.ToString(global::System.Globalization.CultureInfo.InvariantCulture),
            ["ASPNETCORE_URLS"] = project == "StandIns" ? $"http://127.0.0.1:{_stand}" : Address,
        };
        for (var i = 0; i < 5; i++)
        {
            environment[$"PostTide__RetrySeconds__{i}"] = "0.2";
            environment[$"PostTide__MailboxRetrySeconds__{i}"] = "0.3";
        }

        foreach (var (name, value) in environment)
        {
            start.Environment[name] = value;
        }

        var process = Process.Start(start) ?? throw new InvalidOperationException($"{project} did not start.");
        process.OutputDataReceived += (_, _) => { };
        process.BeginOutputReadLine();
        return process;
    }

    private static string FindRoot()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (folder is not null && !File.Exists(Path.Combine(folder.FullName, "PostTide.slnx")))
        {
            folder = folder.Parent;
        }

        return folder?.FullName ?? throw new InvalidOperationException("The repository cannot be found from here.");
    }
}

/// <summary>Tests that share one office.</summary>
[CollectionDefinition(nameof(SharedOffice))]
public sealed class SharedOffice : ICollectionFixture<Office>;
