<%@ page contentType="text/html; charset=UTF-8" %>
<%-- <img data-sarvel="badge" src="../masters/seal.png"> --%>
<% String title = "The lamp"; int a = 1; %>
<p><img <jsp:text>class="wide"</jsp:text> data-sarvel="banner" src="../masters/gull.jpg" alt="<%= a > 0 ? title : "none" %>"></p>
<% for (int i = 0; i < 2; i++) { %><img data-sarvel="badge" src="../masters/seal.png" alt="${1 > 0 ? 'The seal' : ''}"><% } %>
