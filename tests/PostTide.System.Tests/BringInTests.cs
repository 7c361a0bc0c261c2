using System.Text;
using MimeKit;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>Bringing mail in and taking it out: nothing lost on the way, byte for byte, whatever cuts it off.</summary>
[Collection(nameof(SharedOffice))]
public sealed class BringInTests(Office office)
{
    private static byte[] Mbox(string mark, int count) => Encoding.ASCII.GetBytes(string.Concat(Enumerable.Range(0, count).Select(i =>
        $"From x Mon Oct  5 09:00:00 2026\nFrom: w{i}@tester.example\nDate: Mon, 5 Oct 2026 09:00:00 +0000\nSubject: {mark} {i}\nMessage-ID: <{mark}-{i}@tester.example>\n\nWords {i}.\n>From here on more.\n\n")));

    [Fact]
    public async Task A_file_whose_connection_broke_goes_on_where_it_was()
    {
        var bytes = Mbox("broken", 20);
        var id = await office.BeginUploadAsync("broken.mbox", bytes.Length, carryOut: false);
        (await office.AppendAsync(id, 0, bytes[..700])).EnsureSuccessStatusCode();
        ((int)(await office.AppendAsync(id, 0, bytes[..700])).StatusCode).ShouldBe(409, "bytes at another place are refused");
        using var head = await office.Http.SendAsync(new HttpRequestMessage(HttpMethod.Head, $"/api/uploads/{id}"));
        head.Headers.GetValues("Upload-Offset").ShouldBe(["700"]);
        (await office.AppendAsync(id, 700, bytes[700..])).EnsureSuccessStatusCode();
        (await office.UploadedAsync(id))["taken"]!.GetValue<int>().ShouldBe(20);
    }

    [Fact]
    public async Task An_upload_of_thousands_survives_a_kill_and_every_message_is_accounted_for()
    {
        var bytes = Mbox("thousands", 3_000);
        var id = await office.BeginUploadAsync("thousands.mbox", bytes.Length, carryOut: false);
        (await office.AppendAsync(id, 0, bytes)).EnsureSuccessStatusCode();
        await Office.EventuallyAsync(async () => (await office.GetAsync($"/api/uploads/{id}"))["lookedAt"]!.GetValue<int>() > 0);
        await office.KillServerAsync();
        await office.StartServerAsync();
        var done = await office.UploadedAsync(id);
        (done["lookedAt"]!.GetValue<int>(), done["taken"]!.GetValue<int>(), done["duplicates"]!.GetValue<int>()).ShouldBe((3_000, 3_000, 0));
        await Office.EventuallyAsync(async () => await office.CountAsync("SELECT count(*) FROM messages WHERE mail_id LIKE 'thousands-%' AND state = 'Planned' AND old") == 3_000);
    }

    [Fact]
    public async Task A_search_is_exported_as_mbox_and_every_message_comes_back_byte_for_byte()
    {
        var mark = $"export{Guid.NewGuid():N}";
        await office.UploadAsync("out.mbox", Mbox(mark, 5), carryOut: false);
        await Office.EventuallyAsync(async () => await office.CountAsync($"SELECT count(*) FROM messages WHERE mail_id LIKE '{mark}-%'") == 5);
        var exported = await office.Http.GetByteArrayAsync($"/api/messages/export?text={mark}");
        var messages = Mail.MboxReader.Read(new MemoryStream(exported), 1_000_000).ToList();
        messages.Count.ShouldBe(5);
        foreach (var message in messages)
        {
            var id = await office.CountAsync($"SELECT id FROM messages WHERE mail_id = '{MimeMessage.Load(new MemoryStream(message.Bytes!)).MessageId}'");
            (await office.Http.GetByteArrayAsync($"/api/messages/{id}/raw")).ShouldBe(message.Bytes!);
            Encoding.ASCII.GetString(message.Bytes!).ShouldContain("\nFrom here on more.");
        }
    }

    [Fact]
    public async Task Every_message_of_the_public_corpus_is_taken_in_or_refused_with_a_reason()
    {
        var corpus = Environment.GetEnvironmentVariable("POSTTIDE_TEST_CORPUS");
        Assert.SkipWhen(string.IsNullOrEmpty(corpus) || !Directory.Exists(corpus), "The public mail corpus could not be had from the npm registry.");
        var files = Directory.GetFiles(corpus!, "*.txt", SearchOption.AllDirectories).Order(StringComparer.Ordinal).Select(File.ReadAllBytes).ToList();
        files.Count.ShouldBeGreaterThan(6_000);
        using var mbox = new MemoryStream();
        foreach (var file in files)
        {
            await Mail.MboxWriter.WriteAsync(mbox, "corpus@tester.example", DateTimeOffset.UnixEpoch, file, CancellationToken.None);
        }

        var done = await office.UploadAsync("corpus.mbox", mbox.ToArray(), carryOut: false);
        var (looked, taken, duplicates) = (done["lookedAt"]!.GetValue<int>(), done["taken"]!.GetValue<int>(), done["duplicates"]!.GetValue<int>());
        looked.ShouldBe(files.Count);
        (looked - taken - duplicates).ShouldBe(done["refused"]!.AsArray().Count, "whatever is not taken has its reason");
        taken.ShouldBe(files.Select(f => Convert.ToHexString(global::System.Security.Cryptography.SHA256.HashData(f.AsSpan().EndsWith("\n"u8) ? f : [.. f, (byte)'\n']))).Distinct().Count() - done["refused"]!.AsArray().Count);
        await Office.EventuallyAsync(async () => await office.CountAsync("SELECT count(*) FROM messages WHERE state = 'Arrived'") == 0);
        (await office.CountAsync("SELECT count(*) FROM messages WHERE state = 'Unreadable' AND problem IS NULL")).ShouldBe(0);
    }
}
