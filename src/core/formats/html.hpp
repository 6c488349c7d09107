// SPDX-License-Identifier: GPL-3.0-or-later
// What pages for people have in common.
#pragma once

#include <string>

namespace fw {

inline constexpr const char* kPageStyle = R"(
body{font:10pt/1.45 sans-serif;color:#26221d;background:#fff;max-width:52em;margin:2em auto;padding:0 1em}
h1{font-size:17pt;margin:0}h2{font-size:12pt;margin:1.8em 0 .4em;border-bottom:1px solid #ccc4b4}
p{margin:.4em 0}.faint{color:#6d665b}.figures{font-size:14pt;margin:.8em 0}
table{border-collapse:collapse;width:100%}td,th{text-align:left;vertical-align:top;padding:.25em .6em .25em 0;border-bottom:1px solid #e4ddcf}
th{font-weight:600}td.n,th.n{text-align:right;font-variant-numeric:tabular-nums;white-space:nowrap}td.cell{min-width:3.4em}
svg{display:block;max-width:100%}tr{break-inside:avoid}h2{break-after:avoid}
@media print{body{margin:0;max-width:none;font-size:9pt}}
)";

/// Text as it may stand in a page.
inline std::string escaped(const std::string& text) {
    std::string out;
    for (const char c : text) switch (c) {
            case '&': out += "&amp;"; break;
            case '<': out += "&lt;"; break;
            case '>': out += "&gt;"; break;
            case '"': out += "&quot;"; break;
            default: out += c;
        }
    return out;
}

}  // namespace fw
